import { fireEvent, screen } from "@testing-library/react";
import { beforeEach, expect, test, vi } from "vitest";

import { mount } from "../testing/mount";
import { press } from "../testing/station";
import { STATIONS } from "../stations/registry";
import { Shell } from "./Shell";
import { SHORTCUTS } from "./shortcuts";
import { applyTheme } from "./theme";

const activity = vi.hoisted(() => ({ jobs: [] as object[], connected: true }));
vi.mock("./activity", () => ({ useActivity: () => activity }));

beforeEach(() => {
  activity.jobs = [];
  activity.connected = true;
  localStorage.clear();
  applyTheme();
});

const job = (state: string, fraction: number, doing: string, id = 1) => ({
  id,
  kind: "build",
  subject: 1,
  state,
  fraction,
  doing,
});

test("what the server does stands in one line: how many jobs, what is done, and how far", () => {
  activity.jobs = [job("queued", 0, ""), job("running", 0.5, "Levels of the crate", 2), job("running", 0.7, "", 3)];
  mount(<Shell />);
  expect(screen.getByText("3 jobs · Levels of the crate")).toBeTruthy();
  expect(screen.getByRole("progressbar", { name: "work in progress" }).getAttribute("aria-valuenow")).toBe("40");
});

test("jobs that only wait say so, and an idle server says nothing", () => {
  activity.jobs = [job("queued", 0, "")];
  mount(<Shell />);
  expect(screen.getByText("1 job · waiting")).toBeTruthy();
});

test("a lost connection is told with what to do", () => {
  activity.connected = false;
  activity.jobs = [job("running", 0.5, "Levels")];
  mount(<Shell />);
  expect(screen.getByRole("alert").textContent).toBe("connection lost; start the server again with ./plindro demo");
  expect(screen.queryByText(/Levels/)).toBeNull();
});

test("light and dark change by the button and by T, and the choice is kept", () => {
  mount(<Shell />);
  expect(document.documentElement.dataset.theme).toBe("chart");
  press("Dark");
  expect([document.documentElement.dataset.theme, localStorage.getItem("plindro.theme")]).toEqual(["night", "night"]);
  fireEvent.keyDown(document.body, { key: "t" });
  expect(document.documentElement.dataset.theme).toBe("chart");
  expect(screen.getByRole("button", { name: "Dark" })).toBeTruthy();
});

test("the list of shortcuts has those of every station", async () => {
  mount(<Shell />);
  fireEvent.keyDown(document.body, { key: "?" });
  expect(await screen.findByText("Bench, Normals")).toBeTruthy();
  const keys = [...SHORTCUTS.flatMap((group) => group.keys), ...STATIONS.flatMap((station) => station.keys)];
  expect(screen.getAllByRole("term").map((term) => term.textContent)).toEqual(keys.map(([key]) => key));
});

test("the palette opens by its keys", async () => {
  mount(<Shell />);
  fireEvent.keyDown(document.body, { key: "k", ctrlKey: true });
  expect(await screen.findByPlaceholderText("Find a prop or a command")).toBeTruthy();
});
