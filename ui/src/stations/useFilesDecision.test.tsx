import { act, fireEvent, screen } from "@testing-library/react";
import { useState } from "react";
import { beforeEach, expect, test, vi } from "vitest";

import type { Stale } from "../api/client";
import { HeldRequest } from "../testing/heldRequest";
import { mount } from "../testing/mount";
import { type Bench, BenchContext } from "./bench";
import { useFilesDecision } from "./useFilesDecision";

const file = { path: "crate.obj", file: new File(["v 0 0 0"], "crate.obj") };
const refusal = { detail: "decided in another browser meanwhile", version: 9, rows: [{ key: "source" }] };

function Sender() {
  const [taken, setTaken] = useState("nothing");
  const { send, sending } = useFilesDecision<{ name: string }>("/api/props/7/source", ({ name }) => setTaken(name));
  return (
    <>
      <button onClick={() => void send([file])}>send</button>
      <p>{sending === null ? taken : `${100 * sending} %`}</p>
    </>
  );
}

const asked: { error: Stale; again: (version: number) => void }[] = [];

beforeEach(() => {
  vi.stubGlobal("XMLHttpRequest", HeldRequest);
  asked.length = 0;
  const bench = {
    prop: { id: 7, version: 4 },
    askWhich: (error: Stale, again: (version: number) => void) => asked.push({ error, again }),
  };
  mount(
    <BenchContext value={bench as unknown as Bench}>
      <Sender />
    </BenchContext>,
  );
  fireEvent.click(screen.getByText("send"));
});

test("files are decided in view of the version that is shown", async () => {
  expect(HeldRequest.last.address).toBe("/api/props/7/source?version=4");
  act(() => HeldRequest.last.upload.onprogress?.({ lengthComputable: true, loaded: 30, total: 40 }));
  expect(screen.getByText("75 %")).toBeTruthy();
  await HeldRequest.last.answer(200, JSON.stringify({ name: "crate" }));
  expect(screen.getByText("crate")).toBeTruthy();
});

test("where another sent files meanwhile it is asked which hold, and one's own go again in view of them", async () => {
  await HeldRequest.last.answer(409, JSON.stringify(refusal));
  expect(screen.getByText("nothing")).toBeTruthy();
  expect(asked[0]?.error.rows).toEqual(refusal.rows);
  act(() => asked[0]?.again(9));
  expect(HeldRequest.last.address).toBe("/api/props/7/source?version=9");
  expect(HeldRequest.last.form?.getAll("paths")).toEqual(["crate.obj"]);
  await HeldRequest.last.answer(200, JSON.stringify({ name: "mine" }));
  expect(screen.getByText("mine")).toBeTruthy();
});

test("any other refusal is told", async () => {
  await HeldRequest.last.answer(422, JSON.stringify({ detail: "give one source file with its textures" }));
  expect(screen.getByText("give one source file with its textures")).toBeTruthy();
  expect(asked).toEqual([]);
});
