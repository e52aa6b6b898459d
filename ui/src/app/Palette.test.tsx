import { fireEvent, screen } from "@testing-library/react";
import { beforeEach, expect, test, vi } from "vitest";

import { mount } from "../testing/mount";
import { board, propRow } from "../testing/props";
import { serve } from "../testing/server";
import { Palette } from "./Palette";

const [onOpenChange, onHelp, onStorage] = [vi.fn(), vi.fn(), vi.fn()];
const project = { name: "", lines: [], destinations: [], has_demo: false };

beforeEach(() => {
  onOpenChange.mockClear();
  onHelp.mockClear();
  serve({
    "GET /api/props/changes": board([propRow(1, "crate"), propRow(2, "lamp", { triangles: 48210 })]),
    "GET /api/project": project,
  });
});

const open = async () => {
  mount(<Palette open onOpenChange={onOpenChange} onHelp={onHelp} onStorage={onStorage} />);
  await screen.findByText("lamp");
};
const type = (text: string) =>
  fireEvent.change(screen.getByPlaceholderText("Find a prop or a command"), { target: { value: text } });

test("a prop is found by a part of its name and opened with Enter", async () => {
  await open();
  expect(screen.getByText("48k tris")).toBeTruthy();
  type("lam");
  expect(screen.queryByText("crate")).toBeNull();
  fireEvent.keyDown(screen.getByPlaceholderText("Find a prop or a command"), { key: "Enter" });
  expect(onOpenChange).toHaveBeenCalledWith(false);
  expect(screen.getByLabelText("address").textContent).toBe("/props/2");
});

test("commands run once the palette is closed", async () => {
  await open();
  fireEvent.click(screen.getByText("Ship all props"));
  expect(screen.getByLabelText("address").textContent).toBe("/shipments/new?ids=1,2");
  fireEvent.click(screen.getByText("Show the shortcuts"));
  expect(onHelp).toHaveBeenCalledOnce();
  expect(onOpenChange).toHaveBeenCalledTimes(2);
});

test("the rock is offered only where the demo is", async () => {
  await open();
  expect(screen.queryByText(/skerry rock/)).toBeNull();
});

test("nothing found is said", async () => {
  await open();
  type("zzz");
  expect(screen.getByText("nothing of that name")).toBeTruthy();
});
