import { render, waitFor } from "@testing-library/react";
import { MeshStandardMaterial, RepeatWrapping, Texture } from "three";
import { expect, test } from "vitest";

import { modelOf } from "../../testing/level";
import { serve } from "../../testing/server";
import { makeView } from "../../testing/view";
import { OnModel } from "./OnModel";

/** A plain DDS of one pixel. */
function pixel(): Uint8Array {
  const data = new Uint8Array(132);
  const words = new DataView(data.buffer);
  words.setUint32(0, 0x20534444, true);
  [12, 16, 28].forEach((at) => words.setUint32(at, 1, true));
  return data;
}

function open(addresses: [string, string][]) {
  const model = modelOf([{ material: "tin", positions: [0, 0, 0, 1, 0, 0, 0, 1, 0] }]);
  const entry = model.levels[0]!.meshes[0]!;
  const source = new Texture();
  source.name = "tin_color";
  source.wrapS = RepeatWrapping;
  entry.own = entry.mesh.material = new MeshStandardMaterial({ map: source });
  const view = makeView();
  const all = { model, mode: "shaded" as const, addresses: new Map(addresses) };
  const { rerender, unmount } = render(<OnModel {...all} />, { wrapper: view.View });
  const drawn = () => entry.mesh.material as MeshStandardMaterial;
  return { entry, source, drawn, unmount, again: (next: object) => rerender(<OnModel {...all} {...next} />) };
}

const one: [string, string] = ["tin_color", "/api/files/1.bin"];

test("the model is drawn with the compressed texture, which wraps as the source did, and with its own afterwards", async () => {
  serve({ "GET /api/files/1.bin": pixel });
  const { entry, source, drawn, unmount } = open([one]);
  expect(drawn().map).toBe(source);
  await waitFor(() => expect(drawn()).not.toBe(entry.own));
  expect([drawn().map === source, drawn().map!.wrapS]).toEqual([false, RepeatWrapping]);
  unmount();
  expect(drawn()).toBe(entry.own);
});

test("ways of drawing that show no textures stay what they are", async () => {
  serve({ "GET /api/files/1.bin": pixel });
  const { entry, drawn, again } = open([one]);
  await waitFor(() => expect(drawn()).not.toBe(entry.own));
  again({ mode: "material" });
  expect(drawn()).toBe(entry.flat);
  again({ mode: "wire" });
  expect([drawn() === entry.own, drawn() === entry.flat]).toEqual([false, false]);
});

test("another result takes the place of the one before; where one does not load the source stays", async () => {
  serve({ "GET /api/files/1.bin": pixel, "GET /api/files/2.bin": pixel });
  const { entry, drawn, again } = open([one]);
  await waitFor(() => expect(drawn()).not.toBe(entry.own));
  const first = drawn().map;
  again({ addresses: new Map([["tin_color", "/api/files/2.bin"]]) });
  await waitFor(() => expect([first, entry.own as unknown]).not.toContain(drawn().map));
  again({ addresses: new Map([["tin_color", "/api/files/none.bin"]]) });
  await waitFor(() => expect(drawn()).toBe(entry.own));
});
