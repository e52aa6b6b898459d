import { act, renderHook, screen, waitFor } from "@testing-library/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { expect, test } from "vitest";

import { keys } from "../../api/queries";
import { ToastProvider } from "../../parts/Toasts";
import { askedBy, Refusal, serve } from "../../testing/server";
import { useDecisions } from "./useDecisions";

function decisions() {
  const queries = new QueryClient();
  queries.setQueryData(keys.prop(7), { id: 7, name: "crate", version: 3 });
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={queries}>
      <ToastProvider>{children}</ToastProvider>
    </QueryClientProvider>
  );
  const { result } = renderHook(() => useDecisions(7), { wrapper });
  return { queries, hook: result, name: () => queries.getQueryData<{ name: string }>(keys.prop(7))?.name };
}

test("a decision goes to its station, and the answer is the prop from then on", async () => {
  serve({ "PATCH /api/props/7/settings": { id: 7, name: "decided" } });
  const { hook, name, queries } = decisions();
  queries.setQueryData(keys.props, []);
  act(() => hook.current.decide("cleanup", { holes: true }));
  await waitFor(() => expect(name()).toBe("decided"));
  expect(askedBy("PATCH")[0]?.body).toEqual({ changes: { cleanup: { holes: true } }, version: 3 });
  expect(queries.getQueryState(keys.props)?.isInvalidated, "the board is read again").toBe(true);
});

test("of two answers that overtake each other the newer one holds", async () => {
  const names = ["newer", "older"];
  serve({
    "PATCH /api/props/7/settings": () => ({ id: 7, name: names[0], version: names.shift() === "newer" ? 5 : 4 }),
  });
  const { hook, name, queries } = decisions();
  act(() => hook.current.decide("cleanup", { holes: true }));
  await waitFor(() => expect(name()).toBe("newer"));
  queries.setQueryData(keys.props, []);
  act(() => hook.current.decide("cleanup", { holes: false }));
  await waitFor(() => expect(queries.getQueryState(keys.props)?.isInvalidated).toBe(true));
  expect(name()).toBe("newer");
});

test("undo, redo, the name and the line each have their own request", async () => {
  serve({
    "POST /api/props/7/undo": { id: 7, name: "undone" },
    "POST /api/props/7/redo": { id: 7, name: "redone" },
    "PATCH /api/props/7/name": (body: unknown) => ({ id: 7, ...(body as object) }),
    "PATCH /api/props/7/line": (body: unknown) => ({ id: 7, name: (body as { line: string }).line }),
  });
  const { hook, name } = decisions();
  act(() => hook.current.undo({ label: "Cleanup: holes", is_own: true }));
  await waitFor(() => expect(name()).toBe("undone"));
  act(() => hook.current.redo());
  await waitFor(() => expect(name()).toBe("redone"));
  act(() => hook.current.rename("SM_crate"));
  await waitFor(() => expect(name()).toBe("SM_crate"));
  act(() => hook.current.changeLine("foliage"));
  await waitFor(() => expect(name()).toBe("foliage"));
});

test("a refusal is told, and the prop is read again as it stands", async () => {
  serve({
    "PATCH /api/props/7/settings": () => {
      throw new Refusal(422, "levels: a ratio lies between 0 and 1");
    },
  });
  const { hook, name, queries } = decisions();
  act(() => hook.current.decide("levels", { levels: [] }));
  expect(await screen.findByText("levels: a ratio lies between 0 and 1")).toBeTruthy();
  expect(name()).toBe("crate");
  expect(queries.getQueryState(keys.prop(7))?.isInvalidated).toBe(true);
});

test("building again is asked without touching what is shown", async () => {
  serve({ "POST /api/props/7/rebuild": { id: 7 } });
  const { hook, name } = decisions();
  act(() => hook.current.rebuild());
  await waitFor(() => expect(askedBy("POST")).toHaveLength(1));
  expect(name()).toBe("crate");
});

test("what another browser decided meanwhile is shown beside one's own, and either can hold", async () => {
  const rows = [{ key: "normals.angle", label: "Normals: angle", theirs: "20", yours: "50" }];
  serve({
    "PATCH /api/props/7/settings": (body: unknown) => {
      const { version } = body as { version: number };
      if (version < 5) throw new Refusal(409, "decided in another browser meanwhile", { version: 5, rows });
      return { id: 7, name: "mine" };
    },
  });
  const { hook, name } = decisions();
  act(() => hook.current.decide("normals", { angle: 50 }));
  await waitFor(() => expect(hook.current.dispute?.rows).toEqual(rows));
  expect(screen.queryByText("decided in another browser meanwhile"), "it is asked, not told").toBeNull();
  act(() => hook.current.dispute?.keepTheirs());
  expect([hook.current.dispute, name(), askedBy("PATCH").length]).toEqual([null, "crate", 1]);
  act(() => hook.current.decide("normals", { angle: 50 }));
  await waitFor(() => expect(hook.current.dispute).not.toBeNull());
  act(() => hook.current.dispute?.useMine());
  await waitFor(() => expect(name()).toBe("mine"));
  expect(askedBy("PATCH").at(-1)?.body).toEqual({ changes: { normals: { angle: 50 } }, version: 5 });
  expect(hook.current.dispute).toBeNull();
});

test("a decision of another browser is undone only when that is said again", async () => {
  const addresses: string[] = [];
  serve({
    "POST /api/props/7/undo": (_: unknown, address: URL) => {
      addresses.push(address.search);
      return { id: 7, name: "undone" };
    },
  });
  const { hook, name } = decisions();
  act(() => hook.current.undo({ label: "Levels: none", is_own: false }));
  expect(await screen.findByText("“Levels: none” was decided in another browser")).toBeTruthy();
  expect(addresses).toEqual([]);
  act(() => screen.getByRole("button", { name: "Undo it here" }).click());
  await waitFor(() => expect(name()).toBe("undone"));
  expect(addresses).toEqual(["?of_anyone=true"]);
});
