import type { ReactNode } from "react";

import LIMITS from "../api/limits.json";
import { CheckRow } from "../parts/CheckRow";
import { SelectBox } from "../parts/SelectBox";
import { NumberField, type NumberLimits } from "../parts/TextField";
import type { Decide, Settings } from "./bench";

type KeyOf<S, Kind> = { [K in keyof S]-?: S[K] extends Kind ? K : never }[keyof S] & string;

interface NumberOptions {
  unit?: string;
  /** What the setting is multiplied by to be shown in its unit. */
  factor?: number;
}

interface ChoiceOptions {
  /** Beside the choice, which has this width, as "w-48"; without it the words stand above and it takes the whole width. */
  width?: string;
  /** What the choice is called where its words alone would not say it. */
  label?: string;
}

/** Fields for the settings of one station: each shows one setting within its limits, and decides it. */
export function settingFields<Name extends keyof Settings>(station: Name, settings: Settings[Name], decide: Decide) {
  type S = Settings[Name];
  const limits = (LIMITS as Record<string, Record<string, NumberLimits>>)[station] ?? {};
  const decided = (key: keyof S & string, value: S[keyof S]) => decide(station, { [key]: value } as Partial<S>);
  return {
    number: (key: KeyOf<S, number>, label: string, { unit, factor = 1 }: NumberOptions = {}) => (
      <NumberField
        key={key}
        inline
        label={label}
        unit={unit}
        factor={factor}
        limits={limits[key]}
        value={settings[key] as number}
        onCommit={(value) => decided(key, value as S[typeof key])}
      />
    ),
    check: (key: KeyOf<S, boolean>, label: string, hint?: string) => (
      <CheckRow
        key={key}
        label={label}
        hint={hint}
        checked={settings[key] as boolean}
        onChange={(on) => decided(key, on as S[typeof key])}
      />
    ),
    choice: <K extends KeyOf<S, string>>(
      key: K,
      words: string,
      options: { value: S[K] & string; label: string }[],
      { width, label = words }: ChoiceOptions = {},
    ) => (
      <Labelled key={key} words={words} beside={width !== undefined}>
        <SelectBox
          label={label}
          className={width ?? "w-full"}
          value={settings[key] as S[K] & string}
          options={options}
          onChange={(value) => decided(key, value)}
        />
      </Labelled>
    ),
  };
}

/** Words above what they name, or beside it. */
export function Labelled({ words, beside, children }: { words: string; beside?: boolean; children: ReactNode }) {
  return (
    <div className={beside ? "flex items-center justify-between gap-2" : "space-y-1"}>
      <div className="text-sm text-quiet">{words}</div>
      {children}
    </div>
  );
}
