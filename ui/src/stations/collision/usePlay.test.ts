import { act, renderHook, waitFor } from "@testing-library/react";
import { BoxGeometry, Mesh } from "three";
import { expect, test } from "vitest";

import { modelOf } from "../../testing/level";
import { EyeStore } from "../../viewport/viewState";
import { usePlay } from "./usePlay";

const built = () => ({
  ...modelOf([{ material: "tin", positions: [-1, 0, 0, 1, 0, 0, 0, 2, 1] }]),
  proxies: [new Mesh(new BoxGeometry(2, 2, 2).translate(0, 1, 0))],
});

test("balls and a walker share one world, which goes with the model", async () => {
  const { result, rerender } = renderHook(({ model }) => usePlay(model), { initialProps: { model: built() } });
  act(() => {
    result.current.drop();
  });
  // While the physics loads another press waits for nothing.
  act(() => result.current.drop());
  expect(result.current.isLoading).toBe(true);
  await waitFor(() => expect(result.current.world?.balls).toHaveLength(1));
  const { world } = result.current;
  act(() => result.current.push(new EyeStore()));
  await waitFor(() => expect(world!.walker).not.toBeNull());
  // From where the eye is: bearing 0 looks along z.
  expect(world!.walker!.direction.z).toBe(-1);
  rerender({ model: built() });
  expect([result.current.world, result.current.said]).toEqual([null, null]);
});

test("a world that comes after its model has gone is thrown away", async () => {
  const { result, rerender } = renderHook(({ model }) => usePlay(model), { initialProps: { model: built() } });
  act(() => result.current.drop());
  rerender({ model: built() });
  await waitFor(() => expect(result.current.isLoading).toBe(false));
  expect(result.current.world).toBeNull();
});
