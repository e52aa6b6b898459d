import { useEffect, useMemo, useState } from "react";

import { useShortcuts } from "../../app/shortcuts";
import { places, useBench, useLevelsShown } from "../bench";
import type { Height } from "./mapChoices";
import { OnModel } from "./OnModel";
import { TexturesSettings } from "./TexturesSettings";
import { TextureBench } from "./TextureBench";
import { TextureTable } from "./TextureTable";
import type { TextureRow } from "./words";

const NO_ROWS: TextureRow[] = [];

/** Every texture of the prop: source and result side by side, in figures, and on the model. */
export function OpenTextures() {
  const { prop, decide, model, mode } = useBench();
  const facts = prop.facts.textures ?? null;
  const rows = facts?.textures ?? NO_ROWS;
  const [wanted, setWanted] = useState<string | null>(null);
  const [onModel, setOnModel] = useState(true);
  const [draft, setDraft] = useState<Height | null>(null);
  const at = Math.max(
    rows.findIndex(({ image }) => image === wanted),
    0,
  );
  const row = rows[at] ?? null;
  const step = (by: number) => setWanted(rows[(at + by + rows.length) % Math.max(rows.length, 1)]?.image ?? null);
  useShortcuts({ ",": () => step(-1), ".": () => step(1) }, { first: true });
  const addresses = useMemo(() => addressesOf(rows, prop.textures), [rows, prop.textures]);
  const hasResults = addresses.size > 0;
  // What was built last has the heights in it that were being set.
  useEffect(() => setDraft(null), [facts, row?.image]);
  useLevelsShown();
  return (
    <>
      <places.settings.In>
        <TexturesSettings prop={prop} row={row} decide={decide} onDraft={setDraft} />
      </places.settings.In>
      <places.evidence.In>
        {facts && rows.length ? (
          <TextureTable facts={facts} selected={row?.image ?? null} onSelect={setWanted} />
        ) : (
          <p className="grid h-full place-items-center text-quiet">This prop has no textures.</p>
        )}
      </places.evidence.In>
      {model && hasResults && onModel && (
        <places.drawn.In>
          <OnModel model={model} mode={mode} addresses={addresses} />
        </places.drawn.In>
      )}
      {row && (
        <places.aside.In>
          <TextureBench
            key={row.image}
            prop={prop.id}
            row={row}
            draft={draft}
            model={model}
            address={row.made ? (prop.textures[row.made.path] ?? null) : null}
            onModel={hasResults ? onModel : null}
            setOnModel={setOnModel}
            onMake={() => decide("textures", { output: "dds" })}
          />
        </places.aside.In>
      )}
    </>
  );
}

/** The addresses of results by the names of the images in the model. */
function addressesOf(rows: TextureRow[], textures: Record<string, string>): Map<string, string> {
  const found = new Map<string, string>();
  for (const { ships_as: name, made } of rows) {
    const address = made && textures[made.path];
    if (address && name) found.set(name, address);
  }
  return found;
}
