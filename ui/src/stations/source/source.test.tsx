import { act, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { expect, test, vi } from "vitest";

import { crateWith } from "../../testing/crate";
import { HeldRequest } from "../../testing/heldRequest";
import { askedBy, Refusal, serve } from "../../testing/server";
import { choose, openStation, press, type } from "../../testing/station";
import { SOURCE } from ".";
import { OpenSource } from "./OpenSource";

const [body, lid, strap] = crateWith().parts;
const withHelper = [body!, lid!, { ...strap!, path: "ref/man", ships: false, reason: "excluded by 'ref_*'" }];
const listed = () =>
  within(screen.getByRole("region", { name: "Parts of the source" }))
    .getAllByRole("row")
    .map((row) => row.textContent.replace("✓", ""));

test("its stop counts what ships, and of how many where some stay behind", () => {
  expect(SOURCE.summary(crateWith())).toBe("3 parts");
  expect(SOURCE.summary(crateWith({ parts: withHelper }))).toBe("2 of 3 parts");
});

test("parts are found by name and by whether they ship, each with its reason and triangles", () => {
  openStation(OpenSource, crateWith({ parts: withHelper }));
  expect(screen.getByText(/^2 of 3 parts\./)).toBeTruthy();
  expect(listed()).toEqual(["body128", "lid128", "ref/manexcluded by 'ref_*'128"]);
  fireEvent.change(screen.getByLabelText("Search parts"), { target: { value: "LI" } });
  expect(listed()).toEqual(["lid128"]);
  fireEvent.change(screen.getByLabelText("Search parts"), { target: { value: "" } });
  press("excluded");
  expect(listed()).toEqual(["ref/manexcluded by 'ref_*'128"]);
  press("ships");
  expect(listed()).toEqual(["body128", "lid128"]);
  fireEvent.change(screen.getByLabelText("Search parts"), { target: { value: "man" } });
  expect(screen.getByText("nothing here fits the search")).toBeTruthy();
});

test("nothing is said of the parts before the source was read", () => {
  openStation(OpenSource, { ...crateWith({ parts: [], split: [] }), facts: {} });
  expect(screen.getByText("It is told once the prop is built.")).toBeTruthy();
  expect(screen.queryByText(/nothing here fits|no part ships|0 of 0/)).toBeNull();
});

test("things without faces are listed with what they are, but not among what ships", () => {
  const bystanders = [{ path: "sun", kind: "light" }] as never;
  openStation(OpenSource, crateWith({ facts: { source: { bystanders } } }));
  expect(screen.getByText(/3 of 3 parts; 1 thing without faces/)).toBeTruthy();
  expect(listed().at(-1)).toBe("sunlight, no faces–");
  press("ships");
  expect(listed()).toHaveLength(3);
});

test("a box excludes a part by hand or takes it back, and no other choice by hand is lost", () => {
  const settings = { source: { included_parts: ["strap", "lid"], excluded_parts: ["body"] } };
  const { decide } = openStation(OpenSource, crateWith({ settings }));
  press("ship lid", "checkbox");
  expect(decide).toHaveBeenLastCalledWith("source", { excluded_parts: ["body", "lid"], included_parts: ["strap"] });
});

test("a part that stays behind is taken in", () => {
  const settings = { source: { included_parts: ["lid"], excluded_parts: ["ref/man", "body"] } };
  const { decide } = openStation(OpenSource, crateWith({ parts: withHelper, settings }));
  press("ship ref/man", "checkbox");
  expect(decide).toHaveBeenLastCalledWith("source", {
    included_parts: ["lid", "ref/man"],
    excluded_parts: ["body"],
  });
});

test("a row takes its part in hand, L excludes it, and Escape lets it go", () => {
  const { decide } = openStation(OpenSource, crateWith());
  const row = screen.getByText("lid").closest("tr")!;
  fireEvent.keyDown(document.body, { key: "l" });
  expect(decide).not.toHaveBeenCalled();
  fireEvent.click(row);
  expect(row.getAttribute("aria-selected")).toBe("true");
  fireEvent.keyDown(document.body, { key: "l" });
  expect(decide).toHaveBeenLastCalledWith("source", { excluded_parts: ["lid"], included_parts: [] });
  fireEvent.keyDown(document.body, { key: "Escape" });
  expect(row.getAttribute("aria-selected")).toBe("false");
});

test("patterns are words between commas; empty ones count for nothing", () => {
  const { decide } = openStation(OpenSource, crateWith());
  type("Exclude (patterns)", " ref_* , ,*_helper,");
  expect(decide).toHaveBeenLastCalledWith("source", { exclude: ["ref_*", "*_helper"] });
  choose("One prop is", "Each named group");
  expect(decide).toHaveBeenLastCalledWith("source", { split: "group" });
  press("Join parts into one mesh", "checkbox");
  expect(decide).toHaveBeenLastCalledWith("source", { join: false });
});

const split = ["body", "lid", "strap"].map((name) => ({
  key: name,
  name,
  file: `${name}.glb`,
  renamed_from: name === "lid" ? "Lid 01" : null,
  parts: 1,
  triangles: 128,
  instances: name === "strap" ? 4 : 1,
}));

test("a split is shown before it is made; then the Yard has the props, and it can be undone", async () => {
  serve({
    "POST /api/props/1/split": { ids: [8, 9, 10] },
    "POST /api/props/remove": { ids: [8, 9, 10] },
    "POST /api/props/restore": { ids: [1] },
  });
  openStation(OpenSource, crateWith({ split, settings: { source: { split: "object" } } }));
  const rows = within(screen.getByRole("region", { name: "Props of the split" })).getAllByRole("row");
  expect(rows.map((row) => row.textContent)).toEqual([
    "body.glb1 part128 tris",
    "lid.glb from “Lid 01”1 part128 tris",
    "strap.glb1 part · 4 instances128 tris",
  ]);
  press("Make 3 props");
  expect(await screen.findByText("3 props made of one source")).toBeTruthy();
  expect(screen.getByLabelText("address").textContent).toBe("/");
  act(() => screen.getByRole("button", { name: "Undo" }).click());
  await waitFor(() => expect(askedBy("POST")).toHaveLength(3));
  expect(askedBy("POST").map(({ body }) => body)).toEqual([undefined, { ids: [8, 9, 10] }, { ids: [1] }]);
});

test("a split that is refused says why and stays where it is", async () => {
  serve({
    "POST /api/props/1/split": () => {
      throw new Refusal(422, "there is only one object");
    },
  });
  openStation(OpenSource, crateWith({ split, settings: { source: { split: "object" } } }));
  press("Make 3 props");
  expect(await screen.findByText("there is only one object")).toBeTruthy();
  expect(screen.getByRole("button", { name: "Make 3 props" })).toBeTruthy();
});

test("one prop of a split shows its own file alone, and which it is cannot be chosen again", () => {
  openStation(OpenSource, crateWith({ split, settings: { source: { split: "object", prop: "lid" } } }));
  expect(screen.getByText("One prop, one file")).toBeTruthy();
  expect(screen.queryByRole("combobox", { name: "One prop is" })).toBeNull();
  expect(within(screen.getByRole("region", { name: "Props of the split" })).getAllByRole("row")).toHaveLength(1);
});

test("after a replacement it stands what the new source changed", () => {
  const rows = [{ what: "triangles", before: "384", after: "512" }];
  openStation(OpenSource, crateWith({ source_changes: { before: "crate.obj", after: "crate_v2.obj", rows } as never }));
  expect(screen.getByText(/^crate\.obj → crate_v2\.obj\./)).toBeTruthy();
  const changes = within(screen.getByRole("region", { name: "Changes of the source" }));
  expect(changes.getByRole("row").textContent).toBe("triangles384→ 512");
});

test("a replaced source is told, with what is built anew", async () => {
  vi.stubGlobal("XMLHttpRequest", HeldRequest);
  openStation(OpenSource, crateWith({ version: 6 }));
  const file = new File(["v 0 0 0"], "crate_v2.obj");
  fireEvent.change(screen.getByLabelText("New version of the source"), { target: { files: [file] } });
  await waitFor(() => expect(HeldRequest.last.address).toBe("/api/props/1/source?version=6"));
  act(() => HeldRequest.last.upload.onprogress?.({ lengthComputable: true, loaded: 30, total: 40 }));
  expect(screen.getByRole("button", { name: "sending 75 %" }).hasAttribute("disabled")).toBe(true);
  await HeldRequest.last.answer(200, JSON.stringify({ props: [1, 4], refused: [] }));
  expect(await screen.findByText("2 props come from this source; all are being built anew.")).toBeTruthy();
  expect(screen.getByRole("button", { name: "Replace the source…" })).toBeTruthy();
});
