import { fireEvent, screen } from "@testing-library/react";
import { expect, test } from "vitest";

import { mount } from "../testing/mount";
import { askedBy, Refusal, serve } from "../testing/server";
import StorageSheet from "./StorageSheet";

const storage = (removable: number) => ({
  folder: "/home/ann/plindro/var",
  bytes: 3 * 1024 * 1024 + removable,
  removable,
  grace_days: 7,
  shares: [
    { name: "sources", files: 15, bytes: 3 * 1024 * 1024 },
    { name: "unused", files: 2, bytes: removable },
  ],
});

test("what fills the disk is listed, and one button frees what nothing needs", async () => {
  serve({
    "GET /api/storage": storage(2048),
    "POST /api/storage/free": { files: 2, bytes: 2048, storage: storage(0) },
  });
  mount(<StorageSheet />);
  expect((await screen.findByRole("row", { name: /Sources of props/ })).textContent).toContain("153.0 MiB");
  fireEvent.click(screen.getByRole("button", { name: "Free 2.0 KiB" }));
  expect(await screen.findByText("2.0 KiB freed")).toBeTruthy();
  expect(screen.getByRole("button", { name: "Nothing to free" }).hasAttribute("disabled")).toBe(true);
  expect(askedBy("POST")).toHaveLength(1);
});

test("a store that cannot be freed says why, and stays as it is shown", async () => {
  serve({
    "GET /api/storage": storage(2048),
    "POST /api/storage/free": () => {
      throw new Refusal(507, "the database is in use by another program; close that and try again");
    },
  });
  mount(<StorageSheet />);
  fireEvent.click(await screen.findByRole("button", { name: "Free 2.0 KiB" }));
  expect(await screen.findByText(/in use by another program/)).toBeTruthy();
  expect(screen.getByRole("button", { name: "Free 2.0 KiB" }).hasAttribute("disabled")).toBe(false);
});
