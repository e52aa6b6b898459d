import type { PropDetail } from "../api/client";
import type { Settings } from "../stations/bench";
import crate from "./crate.json";

type Changes = Partial<Omit<PropDetail, "settings" | "facts">> & {
  settings?: { [Name in keyof Settings]?: Partial<Settings[Name]> };
  facts?: { [Name in keyof PropDetail["facts"]]?: Partial<PropDetail["facts"][Name]> };
};

/** A crate as the server tells it, of three parts, two materials and three levels, with what is changed of it. */
export function crateWith({ settings = {}, facts = {}, ...changes }: Changes = {}): PropDetail {
  const whole = crate as unknown as PropDetail;
  return {
    ...whole,
    settings: merged(whole.settings, settings),
    facts: merged(whole.facts, facts),
    ...changes,
  };
}

function merged<T extends object>(whole: T, changes: object): T {
  const entries = Object.entries(changes).map(([name, own]) => [
    name,
    { ...(whole as Record<string, object>)[name], ...(own as object) },
  ]);
  return { ...whole, ...(Object.fromEntries(entries) as Partial<T>) };
}
