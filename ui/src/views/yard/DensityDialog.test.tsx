import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, test, vi } from "vitest";

import { crateWith } from "../../testing/crate";
import { mount } from "../../testing/mount";
import { askedBy, Refusal, serve } from "../../testing/server";
import { choose, type } from "../../testing/station";
import { DensityDialog } from "./DensityDialog";

test("every prop gets the density, and all of it is undone at once", async () => {
  const answers = [2, 7].flatMap((id) => [
    [`PATCH /api/props/${id}/settings`, crateWith()],
    [`POST /api/props/${id}/undo`, crateWith()],
  ]);
  serve(Object.fromEntries(answers));
  const onClose = vi.fn();
  mount(<DensityDialog ids={[2, 7]} onClose={onClose} />);
  type("Density", "300");
  choose("Texture", "2\u202f048 × 2\u202f048 px");
  fireEvent.click(screen.getByRole("button", { name: "Repack 2 props" }));
  await waitFor(() => expect(onClose).toHaveBeenCalled());
  const changes = { uvs: { method: "repack", density: 300, resolution: 2048 } };
  expect(askedBy("PATCH").map(({ path, body }) => [path, body])).toEqual([
    ["/api/props/2/settings", { changes }],
    ["/api/props/7/settings", { changes }],
  ]);
  fireEvent.click(await screen.findByRole("button", { name: "Undo" }));
  await waitFor(() =>
    expect(askedBy("POST").map(({ path }) => path)).toEqual(["/api/props/2/undo", "/api/props/7/undo"]),
  );
});

test("what is refused says why and can be asked again", async () => {
  serve({
    "PATCH /api/props/2/settings": () => {
      throw new Refusal(422, "this prop is not on the board any more");
    },
  });
  const onClose = vi.fn();
  mount(<DensityDialog ids={[2]} onClose={onClose} />);
  fireEvent.click(screen.getByRole("button", { name: "Repack 1 prop" }));
  expect((await screen.findByRole("alert")).textContent).toBe("this prop is not on the board any more");
  expect(onClose).not.toHaveBeenCalled();
});

test("what was decided until it is called off or refused is told, and undone alone", async () => {
  let release = () => {};
  const held = new Promise<void>((resolve) => (release = resolve));
  serve({
    "PATCH /api/props/2/settings": () => held.then(() => crateWith()),
    "PATCH /api/props/7/settings": () => {
      throw new Refusal(422, "its texture is too small");
    },
    "POST /api/props/2/undo": crateWith(),
  });
  const onClose = vi.fn();
  mount(<DensityDialog ids={[2, 7]} onClose={onClose} />);
  fireEvent.click(screen.getByRole("button", { name: "Repack 2 props" }));
  fireEvent.click(await screen.findByRole("button", { name: "Cancel" }));
  release();
  await waitFor(() => expect(onClose).toHaveBeenCalled());
  expect(askedBy("PATCH").map(({ path }) => path)).toEqual(["/api/props/2/settings"]);
  expect(await screen.findByText("1 of 2 props at 512 px/m")).toBeTruthy();
  onClose.mockClear();
  fireEvent.click(screen.getByRole("button", { name: "Repack 2 props" }));
  expect((await screen.findByRole("alert")).textContent).toBe("its texture is too small");
  expect(onClose).not.toHaveBeenCalled();
  fireEvent.click((await screen.findAllByRole("button", { name: "Undo" })).at(-1)!);
  await waitFor(() => expect(askedBy("POST").map(({ path }) => path)).toEqual(["/api/props/2/undo"]));
});
