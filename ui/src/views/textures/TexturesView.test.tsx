import { screen, within } from "@testing-library/react";
import { expect, test } from "vitest";

import { crateWith } from "../../testing/crate";
import { mount } from "../../testing/mount";
import { serve } from "../../testing/server";
import TexturesView from "./TexturesView";

const [color, normal] = crateWith().facts.textures!.textures;
const props = ["crate", "barrel", "chest", "post"].map((name, k) => ({ id: k + 1, name }));
const open = () => mount(<TexturesView />, { at: "/textures", route: "/textures" });

test("each texture is listed once, with what it weighs and the props that use it", async () => {
  const textures = [
    { texture: color, props },
    { texture: normal, props: props.slice(0, 1) },
  ];
  serve({ "GET /api/textures": { textures, bytes: 545_792, gpu_bytes: 2_796_200, source_gpu_bytes: 2_796_200 } });
  open();
  expect(
    await screen.findByText(
      "2 textures: 2.7 MiB on the GPU with mips, 533 KiB on disk; 1 is used by several props and counted once.",
    ),
  ).toBeTruthy();
  const [, first, second] = screen.getAllByRole("row") as [HTMLElement, HTMLElement, HTMLElement];
  expect(within(first).getAllByRole("link")).toHaveLength(3);
  expect(within(first).getByText("and 1 more").getAttribute("title")).toBe("post");
  expect(within(first).getByRole("img", { name: "50.0 % of all" })).toBeTruthy();
  expect(within(second).getByRole("link", { name: "crate" }).getAttribute("href")).toBe("/props/1");
});

test("a board without textures says so", async () => {
  serve({ "GET /api/textures": { textures: [], bytes: 0, gpu_bytes: 0, source_gpu_bytes: 0 } });
  open();
  expect(await screen.findByText("No textures yet")).toBeTruthy();
});
