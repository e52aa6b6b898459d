import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, test } from "vitest";

import { mount } from "../../testing/mount";
import { crateWith } from "../../testing/crate";
import { askedBy, serve } from "../../testing/server";
import { type } from "../../testing/station";
import { Waivers } from "./Waivers";

const WAIVER = { code: "light-map-missing", by: "Ines", reason: "baked elsewhere" };

test("a stop is waived by a name and a reason, and not without", async () => {
  localStorage.clear();
  serve({ "POST /api/props/7/waivers": crateWith({ waivers: [WAIVER] }) });
  mount(<Waivers prop={7} waivable={["light-map-missing"]} waivers={[]} />);
  fireEvent.click(screen.getByRole("button", { name: "Waive light map missing …" }));
  const waive = () => screen.getByRole("button", { name: "Waive" });
  expect(waive()).toHaveProperty("disabled", true);
  type("Your name", "Ines");
  type("Reason", "baked elsewhere");
  await waitFor(() => expect(waive()).toHaveProperty("disabled", false));
  fireEvent.click(waive());
  await waitFor(() => expect(askedBy("POST").at(-1)?.body).toEqual(WAIVER));
  expect(localStorage.getItem("plindro.by")).toBe("Ines");
});

test("who waived what is said, and can be withdrawn", async () => {
  serve({ "DELETE /api/props/7/waivers/light-map-missing": crateWith({}) });
  mount(<Waivers prop={7} waivable={[]} waivers={[WAIVER]} />);
  expect(screen.getByText("light map missing waived by Ines: baked elsewhere")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Withdraw" }));
  await waitFor(() => expect(askedBy("DELETE")).toHaveLength(1));
});
