import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import { beforeEach, expect, test, vi } from "vitest";

import { keys } from "../../api/queries";
import { crateWith } from "../../testing/crate";
import { HeldRequest } from "../../testing/heldRequest";
import { mount } from "../../testing/mount";
import { benchOf } from "../../testing/station";
import { BenchContext } from "../bench";
import { HandMade } from "./HandMade";

beforeEach(() => {
  vi.stubGlobal("XMLHttpRequest", HeldRequest);
});

function handMade(name: string | null) {
  const prop = crateWith({ version: 3 });
  const [bench, onRemove] = [benchOf(prop), vi.fn()];
  const queries = mount(
    <BenchContext value={bench}>
      <HandMade prop={prop} place={2} level="LOD2" name={name} onRemove={onRemove} />
    </BenchContext>,
  );
  return { bench, onRemove, queries };
}

const choose = (...files: string[]) =>
  fireEvent.change(screen.getByLabelText("Mesh of LOD2"), {
    target: { files: files.map((one) => new File(["v"], one)) },
  });

test("a mesh and what lies beside it are sent for the level, and the answer is the prop from then on", async () => {
  const { queries } = handMade(null);
  choose("low.obj", "low.mtl");
  await waitFor(() => expect(HeldRequest.last.address).toBe("/api/props/1/levels/2/mesh?version=3"));
  expect(HeldRequest.last.form?.getAll("paths")).toEqual(["low.obj", "low.mtl"]);
  act(() => HeldRequest.last.upload.onprogress?.({ lengthComputable: true, loaded: 1, total: 2 }));
  expect(screen.getByRole("button").textContent).toBe("sending 50 %");
  await HeldRequest.last.answer(200, JSON.stringify({ id: 1, name: "with a mesh" }));
  expect(queries.getQueryData(keys.prop(1))).toEqual({ id: 1, name: "with a mesh" });
  expect(screen.getByRole("button").textContent).toBe("Put in a mesh…");
});

test("a mesh that is refused says why and leaves the level as it was", async () => {
  const { queries } = handMade("before.obj");
  choose("low.txt");
  await HeldRequest.last.answer(422, JSON.stringify({ detail: "files ending in '.txt' are not read" }));
  expect(await screen.findByText("files ending in '.txt' are not read")).toBeTruthy();
  expect(queries.getQueryData(keys.prop(1))).toBeUndefined();
  expect(screen.getByText("before.obj")).toBeTruthy();
});

test("a mesh over another browser's is asked about, and sent again where one's own is to hold", async () => {
  const { bench } = handMade(null);
  choose("low.obj");
  await HeldRequest.last.answer(409, JSON.stringify({ detail: "decided meanwhile", version: 8, rows: [] }));
  await waitFor(() => expect(bench.askWhich).toHaveBeenCalledOnce());
  act(() => vi.mocked(bench.askWhich).mock.lastCall![1](8));
  await waitFor(() => expect(HeldRequest.last.address).toBe("/api/props/1/levels/2/mesh?version=8"));
});

test("a level that was modelled is computed again by its cross; one that was not has none", () => {
  const { onRemove } = handMade("low.obj");
  fireEvent.click(screen.getByRole("button", { name: "Compute LOD2 again" }));
  expect(onRemove).toHaveBeenCalledOnce();
});

test("nothing chosen is nothing sent", () => {
  handMade(null);
  const before = HeldRequest.last;
  choose();
  expect(HeldRequest.last).toBe(before);
  expect(screen.queryByRole("button", { name: /again/ })).toBeNull();
});
