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
  fireEvent.keyDown(screen.getByRole("combobox", { name: label }), { key: "ArrowDown" });
  fireEvent.keyDown(screen.getByRole("option", { name: option }), { key: "Enter" });
}

/** Types into a field and leaves it. */
export function type(label: string | HTMLElement, text: string): void {
  const field = typeof label === "string" ? screen.getByLabelText(label) : label;
  fireEvent.change(field, { target: { value: text } });
  fireEvent.blur(field);
}

/** Presses a button, a box or a row by its name. */
export function press(name: string | RegExp, role = "button"): void {
  fireEvent.click(screen.getByRole(role, { name }));
}
