import { act, fireEvent, screen } from "@testing-library/react";
import { beforeEach, expect, test, vi } from "vitest";

import { HeldRequest } from "../../testing/heldRequest";
import { mount } from "../../testing/mount";
import { useUpload } from "./useUpload";

function Sender() {
  const { upload, send, cancel } = useUpload();
  const files = ["a.obj", "deep/b.obj"].map((path) => ({ path, file: new File(["v 0 0 0"], path.split("/").at(-1)!) }));
  return (
    <>
      <button onClick={() => void send(files)}>send</button>
      <button onClick={() => void send([])}>send nothing</button>
      <button onClick={cancel}>cancel</button>
      <p>
        {upload
          ? `${upload.files} files, ${Math.round(100 * upload.fraction)} %${upload.waiting ? `, ${upload.waiting} wait` : ""}`
          : "idle"}
      </p>
    </>
  );
}

beforeEach(() => {
  document.cookie = "csrftoken=abc";
  vi.stubGlobal("XMLHttpRequest", HeldRequest);
  mount(<Sender />);
  fireEvent.click(screen.getByText("send"));
});

test("files go in one request with their paths, and the way is shown", async () => {
  const request = HeldRequest.last;
  expect(request.address).toBe("/api/props/upload");
  expect(request.headers.get("X-CSRFToken"), "the token that came with the page").toBe("abc");
  expect(request.form?.getAll("paths")).toEqual(["a.obj", "deep/b.obj"]);
  act(() => request.upload.onprogress?.({ lengthComputable: true, loaded: 30, total: 40 }));
  expect(screen.getByText("2 files, 75 %")).toBeTruthy();
  act(() => request.upload.onprogress?.({ lengthComputable: false, loaded: 1, total: 0 }));
  expect(screen.getByText("2 files, 75 %")).toBeTruthy();
  await request.answer(200, JSON.stringify({ props: [{}], refused: [] }));
  expect(screen.getByText("1 prop taken")).toBeTruthy();
  expect(screen.getByText("idle")).toBeTruthy();
});

test("each file that could not be used is named with its reason", async () => {
  const refused = [{ name: "a.obj", message: "holds no triangles" }];
  await HeldRequest.last.answer(200, JSON.stringify({ props: [{}, {}], refused }));
  expect(screen.getByText("2 props taken")).toBeTruthy();
  expect(screen.getByText("Not everything was taken")).toBeTruthy();
  expect(screen.getByText("a.obj: holds no triangles")).toBeTruthy();
});

test("a refusal, a broken answer, a lost server and a cancel each end in one sentence", async () => {
  await HeldRequest.last.answer(413, JSON.stringify({ detail: "the upload is larger than 4 GiB; send fewer files" }));
  expect(screen.getByText("the upload is larger than 4 GiB; send fewer files")).toBeTruthy();
  fireEvent.click(screen.getByText("send"));
  await HeldRequest.last.answer(500, "<html>");
  expect(screen.getByText("the server answered 500; try again")).toBeTruthy();
  fireEvent.click(screen.getByText("send"));
  await act(async () => HeldRequest.last.onerror?.());
  expect(screen.getByText("the server cannot be reached; is it running?")).toBeTruthy();
  fireEvent.click(screen.getByText("send"));
  await act(async () => fireEvent.click(screen.getByText("cancel")));
  expect(screen.getByText("the upload was cancelled; nothing was taken")).toBeTruthy();
  expect(screen.getByText("idle")).toBeTruthy();
});

test("an empty drop sends nothing", () => {
  const before = HeldRequest.last;
  fireEvent.click(screen.getByText("send nothing"));
  expect(HeldRequest.last).toBe(before);
});

test("what is dropped meanwhile goes next, and a cancel ends all of it", async () => {
  const first = HeldRequest.last;
  fireEvent.click(screen.getByText("send"));
  expect([HeldRequest.last, screen.getByText("2 files, 0 %, 2 wait") !== null]).toEqual([first, true]);
  await first.answer(200, JSON.stringify({ props: [{}], refused: [] }));
  expect(HeldRequest.last).not.toBe(first);
  expect(screen.getByText("2 files, 0 %")).toBeTruthy();
  const second = HeldRequest.last;
  fireEvent.click(screen.getByText("send"));
  await act(async () => fireEvent.click(screen.getByText("cancel")));
  expect([HeldRequest.last, screen.getByText("idle") !== null]).toEqual([second, true]);
});
