import { fireEvent, render, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";

import { Guarded } from "./Guarded";

test("a failure stays in its region and is tried again in place", () => {
  vi.spyOn(console, "error").mockImplementation(() => undefined);
  let broken = true;
  const Region = () => {
    if (broken) throw new Error("no such buffer");
    return <p>the evidence</p>;
  };
  render(
    <>
      <p>beside it</p>
      <Guarded what="The evidence">
        <Region />
      </Guarded>
    </>,
  );
  expect(screen.getByRole("alert").textContent).toContain("The evidence could not be shown");
  expect(screen.getByText("beside it")).toBeTruthy();
  expect(screen.queryByText(/no such buffer/)).toBeNull();
  broken = false;
  fireEvent.click(screen.getByRole("button", { name: "Try again" }));
  expect(screen.getByText("the evidence")).toBeTruthy();
  expect(screen.queryByRole("alert")).toBeNull();
});
