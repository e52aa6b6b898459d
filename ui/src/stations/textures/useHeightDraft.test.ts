import { act, renderHook } from "@testing-library/react";
import { Texture, TextureLoader } from "three";
import { beforeEach, expect, test, vi } from "vitest";

import { draftAddress, useHeightDraft } from "./useHeightDraft";
import type { Height } from "./mapChoices";

const height = (strength: number): Height => ({ strength, shares: [1], occlusion: false });
const load = vi.spyOn(TextureLoader.prototype, "loadAsync");
/** What is on its way, to be let through or to fail. */
let asked: { address: string; come: (texture: Texture) => void; fail: () => void }[] = [];
beforeEach(() => {
  asked = [];
  load.mockReset().mockImplementation(
    (address) =>
      new Promise((come, fail) => {
        asked.push({ address, come, fail: () => fail(new Error("refused")) });
      }),
  );
});

const open = (draft: Height | null) =>
  renderHook(({ draft }) => useHeightDraft(7, "tin.png", draft), { initialProps: { draft } });

test("of heights that are dragged only the last is fetched, and what came before stays until then", async () => {
  const { result, rerender } = open(height(1));
  rerender({ draft: height(2) });
  rerender({ draft: height(3) });
  expect(asked.map(({ address }) => address)).toEqual([draftAddress(7, "tin.png", height(1))]);
  const [first, last] = [new Texture(), new Texture()];
  await act(async () => asked[0]!.come(first));
  expect(result.current).toBe(first);
  expect(asked.map(({ address }) => address).slice(1)).toEqual([draftAddress(7, "tin.png", height(3))]);
  await act(async () => asked[1]!.come(last));
  expect([result.current, last.flipY]).toEqual([last, false]);
});

test("where one is refused nothing is shown for it, and it is not asked for again", async () => {
  const { result, rerender } = open(height(1));
  await act(async () => asked[0]!.come(new Texture()));
  rerender({ draft: height(2) });
  await act(async () => asked[1]!.fail());
  expect([result.current, asked.length]).toEqual([null, 2]);
});

test("once heights are set, the next draft begins with nothing", async () => {
  const { result, rerender } = open(height(1));
  await act(async () => asked[0]!.come(new Texture()));
  rerender({ draft: null });
  expect(result.current).toBeNull();
  rerender({ draft: height(1) });
  expect([result.current, asked.length]).toEqual([null, 2]);
});
