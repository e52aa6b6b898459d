import { renderHook, waitFor } from "@testing-library/react";
import { Group, Sphere } from "three";
import { beforeEach, expect, test, vi } from "vitest";

import type { EngineAsset } from "../../api/client";
import * as loading from "./loadAsset";
import { useAssets } from "./useAssets";

const drawnOf = (address: string): loading.WalkAsset => ({
  levels: [{ object: Object.assign(new Group(), { name: address }), number: 0 }],
  proxies: [],
  sphere: new Sphere(),
});
const asset = (id: number, model: string | null) => ({ id, model, seen: {} }) as EngineAsset;
const load = vi.spyOn(loading, "loadAsset");

beforeEach(() => {
  load.mockReset();
  load.mockImplementation(async (address) => drawnOf(address));
});

test("each file is loaded once, anew where it was imported again, and not where there is nothing to draw", async () => {
  const { result, rerender } = renderHook(({ assets }) => useAssets(assets), {
    initialProps: { assets: [asset(1, "a.glb"), asset(2, null)] },
  });
  await waitFor(() => expect([...result.current.drawn.keys()]).toEqual([1]));
  rerender({ assets: [asset(1, "a.glb"), asset(2, null)] });
  expect(load).toHaveBeenCalledTimes(1);
  rerender({ assets: [asset(1, "a2.glb")] });
  await waitFor(() => expect(result.current.drawn.get(1)?.levels[0]?.object.name).toBe("a2.glb"));
  rerender({ assets: [] });
  await waitFor(() => expect(result.current.drawn.size).toBe(0));
});

test("what cannot be drawn is told, and the others are drawn", async () => {
  load.mockImplementation(async (address) => {
    if (address === "torn.glb") throw new Error("torn");
    return drawnOf(address);
  });
  const { result, rerender } = renderHook(({ assets }) => useAssets(assets), {
    initialProps: { assets: [asset(1, "torn.glb"), asset(2, "b.glb")] },
  });
  await waitFor(() => expect(result.current.failed).toEqual(["torn.glb"]));
  await waitFor(() => expect([...result.current.drawn.keys()]).toEqual([2]));
  rerender({ assets: [asset(1, "whole.glb"), asset(2, "b.glb")] });
  expect(result.current.failed, "another file took its place").toEqual([]);
});
