import { QueryClient } from "@tanstack/react-query";
import { expect, test } from "vitest";

import { propRow } from "../testing/props";
import { serve } from "../testing/server";
import { propsQuery } from "./queries";

test("the board is read whole once, and then only what changed since", async () => {
  const asked: (string | null)[] = [];
  const later = "2026-03-02T10:20:00Z";
  const answers = [
    { order: [2, 1], rows: [propRow(2, "bell", { changed: later }), propRow(1, "crate")] },
    { order: [3, 2], rows: [propRow(3, "anchor")] },
    { order: [], rows: [] },
  ];
  serve({
    "GET /api/props/changes": (_: unknown, address: URL) => {
      asked.push(address.searchParams.get("since"));
      return answers[asked.length - 1];
    },
  });
  const queries = new QueryClient();
  const names = async () => (await queries.fetchQuery({ ...propsQuery, staleTime: 0 })).map(({ name }) => name);
  expect(await names()).toEqual(["bell", "crate"]);
  expect(await names(), "new ones come, those that left go, all others stay").toEqual(["anchor", "bell"]);
  expect(await names()).toEqual([]);
  expect(asked).toEqual([null, later, later]);
});
