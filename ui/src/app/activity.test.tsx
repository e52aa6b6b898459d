import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

import { keys } from "../api/queries";
import { ToastProvider } from "../parts/Toasts";
import { ActivityProvider, useActivity } from "./activity";

class Events {
  static last: Events;
  onmessage: ((event: { data: string }) => void) | null = null;
  onerror: (() => void) | null = null;
  close = vi.fn();
  constructor() {
    Events.last = this;
  }
  say(changes: object) {
    const data = JSON.stringify({ jobs: [], props: "1", shipments: "1", problem: null, ...changes });
    act(() => this.onmessage?.({ data }));
  }
}

function Said() {
  const { jobs, connected } = useActivity();
  return <p>{connected ? `${jobs.length} jobs` : "connection lost"}</p>;
}

const queries = new QueryClient();
const invalidated = vi.spyOn(queries, "invalidateQueries");

beforeEach(() => vi.stubGlobal("EventSource", Events));
afterEach(() => {
  vi.unstubAllGlobals();
  invalidated.mockClear();
});

const mount = () =>
  render(
    <QueryClientProvider client={queries}>
      <ToastProvider>
        <ActivityProvider>
          <Said />
        </ActivityProvider>
      </ToastProvider>
    </QueryClientProvider>,
  );

test("what changed on the server is read again, and nothing else", () => {
  mount();
  Events.last.say({});
  expect(invalidated).not.toHaveBeenCalled();
  Events.last.say({ props: "2", jobs: [{ id: 1 }] });
  expect(invalidated.mock.calls).toEqual([[{ queryKey: keys.props }]]);
  expect(screen.getByText("1 jobs")).toBeTruthy();
  Events.last.say({ props: "2", shipments: "2" });
  expect(invalidated.mock.calls[1]).toEqual([{ queryKey: keys.shipments }]);
});

test("what was read, or asked for, before the server was heard is read again", async () => {
  let answer: ((text: string) => void) | undefined;
  const late = vi.fn(() => new Promise<string>((resolve) => (answer = resolve)));
  queries.setQueryData([...keys.props, 1], "delivering");
  const asked = queries.fetchQuery({ queryKey: [...keys.shipments, 1], queryFn: late });
  mount();
  Events.last.say({});
  await waitFor(() => expect(invalidated).toHaveBeenCalledWith({ queryKey: [...keys.props, 1], exact: true }));
  expect(queries.getQueryState([...keys.props, 1])?.isInvalidated).toBe(true);
  answer?.("delivering");
  await asked;
  await waitFor(() => expect(queries.getQueryState([...keys.shipments, 1])?.isInvalidated).toBe(true));
  queries.clear();
});

test("a lost connection is told until the server speaks again", () => {
  mount();
  act(() => Events.last.onerror?.());
  expect(screen.getByText("connection lost")).toBeTruthy();
  Events.last.say({});
  expect(screen.getByText("0 jobs")).toBeTruthy();
});

test("a problem is told once, and not again when the page is opened later", () => {
  mount();
  Events.last.say({ problem: { id: 4, message: "crate.obj: no triangles" } });
  expect(screen.queryByText("crate.obj: no triangles")).toBeNull();
  Events.last.say({ problem: { id: 5, message: "the disk is full" } });
  Events.last.say({ problem: { id: 5, message: "the disk is full" } });
  expect(screen.getAllByText("the disk is full")).toHaveLength(1);
});
