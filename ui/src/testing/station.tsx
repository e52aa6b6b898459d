import { fireEvent, screen } from "@testing-library/react";
import type { ComponentType } from "react";
import { vi } from "vitest";

import type { PropDetail } from "../api/client";
import { type Bench, BenchContext, places } from "../stations/bench";
import { EyeStore } from "../viewport/viewState";
import { mount } from "./mount";

/** The bench that an open station finds, with spies for what it decides. */
export function benchOf(prop: PropDetail, more: Partial<Bench> = {}) {
  return {
    prop,
    decide: vi.fn(),
    askWhich: vi.fn(),
    rename: vi.fn(),
    model: null,
    eye: new EyeStore(),
    mode: "shaded" as const,
    left: 0,
    right: 1,
    last: prop.levels.length - 1,
    setLeft: vi.fn(),
    split: null,
    finding: null,
    showFinding: vi.fn(),
    show: vi.fn(),
    ...more,
  };
}

/** A station that is open on a page of its own: its settings, its evidence, and what lies over the view. */
export function openStation(Open: ComponentType, prop: PropDetail, more: Partial<Bench> = {}) {
  const bench = benchOf(prop, more);
  mount(
    <BenchContext value={bench}>
      <section aria-label="Settings">
        <places.settings.Out />
      </section>
      <section aria-label="Evidence">
        <places.evidence.Out />
      </section>
      <places.strip.Out />
      <places.overlay.Out />
      <places.toolsBefore.Out />
      <places.tools.Out />
      <Open />
    </BenchContext>,
  );
  return bench;
}

/** Chooses of a drop-down as the keyboard does. */
export function choose(label: string, option: string): void {
  fireEvent.keyDown(found("button[role=combobox]", label), { key: "ArrowDown" });
  fireEvent.keyDown(found("[role=option]", option), { key: "Enter" });
}

/** Types into a field and leaves it. */
export function type(label: string | HTMLElement, text: string): void {
  const field = typeof label === "string" ? screen.getByLabelText(label) : label;
  fireEvent.change(field, { target: { value: text } });
  fireEvent.blur(field);
}

/** Presses a button or a box by its name. */
export function press(name: string | RegExp, role: "button" | "checkbox" = "button"): void {
  fireEvent.click(found(role === "button" ? "button:not([role])" : `button[role=${role}]`, name));
}

/** The one element of a kind with this name. The library's search by role asks the whole page what each is called. */
function found(selector: string, name: string | RegExp): Element {
  const called = (one: Element) => (one.getAttribute("aria-label") ?? one.textContent).trim();
  const fits = [...document.querySelectorAll(selector)].filter((one) =>
    typeof name === "string" ? called(one) === name : name.test(called(one)),
  );
  if (fits.length !== 1) throw new Error(`${fits.length} of "${selector}" are called ${String(name)}`);
  return fits[0]!;
}
