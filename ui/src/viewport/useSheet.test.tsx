import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, renderHook, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { expect, test } from "vitest";

import { modelOf } from "../testing/level";
import { askedBy, Refusal, serve } from "../testing/server";
import { useSurfaceLevel } from "./useSheet";

const model = modelOf([{ material: "tin", positions: [0, 0, 0, 1, 0, 0, 0, 1, 0] }]);

function open(url: string | null) {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={queries}>{children}</QueryClientProvider>
  );
  return renderHook(() => useSurfaceLevel(url, model, model.url), { wrapper }).result;
}

test("nothing is asked for where a prop has no sheet", () => {
  expect(open(null).current).toMatchObject({ surface: null, isFailed: false });
  expect(askedBy("GET")).toEqual([]);
});

/** A sheet of no triangles, packed as the server does. */
function empty(): Uint8Array {
  const header = new TextEncoder().encode(JSON.stringify({ triangles: 0, arrays: [] }));
  const data = new Uint8Array(4 + header.length);
  new DataView(data.buffer).setUint32(0, header.length, true);
  data.set(header, 4);
  return data;
}

test("a sheet that does not come, or belongs to another model, is told, and can be loaded again", async () => {
  const answers: (() => Uint8Array)[] = [
    () => {
      throw new Refusal(500, "the disk is full");
    },
    empty,
  ];
  serve({ "GET /api/files/sheet.bin": () => answers.shift()?.() });
  const state = open("/api/files/sheet.bin");
  await waitFor(() => expect(state.current.isFailed).toBe(true));
  act(() => state.current.retry());
  await waitFor(() => expect(askedBy("GET")).toHaveLength(2));
  await waitFor(() => expect(state.current).toMatchObject({ surface: null, isFailed: true }));
});
