import type { PropDetail } from "../../api/client";
import { SelectBox } from "../../parts/SelectBox";
import type { Decide } from "../bench";
import { MeshFile } from "../MeshFile";
import { Labelled, settingFields } from "../settingFields";
import { type Kind, KINDS } from "./words";

const AS_ALL = "as-all";

/** What stops: a mesh from a file, or what is fitted. */
export function CollisionSettings({ prop, decide }: { prop: PropDetail; decide: Decide }) {
  const settings = prop.settings.collision;
  return (
    <div className="space-y-2.5">
      <Labelled words="Modelled by hand" beside>
        <div className="w-48">
          <MeshFile
            prop={prop}
            address="collision/mesh"
            label="Collision mesh"
            hint="each of its shells is a proxy; all must be closed and convex"
            name={settings.mesh || null}
            removal="Fit the collision again"
            onRemove={() => decide("collision", { mesh: "" })}
          />
        </div>
      </Labelled>
      {settings.mesh === "" && <Fitted prop={prop} decide={decide} />}
    </div>
  );
}

/** What is fitted: the kind of the whole, its measures, and parts with a kind of their own. */
function Fitted({ prop, decide }: { prop: PropDetail; decide: Decide }) {
  const settings = prop.settings.collision;
  const field = settingFields("collision", settings, decide);
  const kinds = new Set<Kind>([settings.kind, ...settings.parts.map(({ kind }) => kind)]);
  const hasHulls = kinds.has("hull") || kinds.has("part-hulls") || kinds.has("pieces");
  return (
    <>
      {field.choice("kind", "The prop is stopped by", KINDS, { label: "Kind of collision" })}
      {kinds.size > 1 || settings.kind !== "none" ? (
        <>
          {field.number("margin", "Margin", { unit: "mm", factor: 1000 })}
          {hasHulls && field.number("corners", "Most corners of a hull")}
          {kinds.has("pieces") && field.number("pieces", "Most pieces")}
        </>
      ) : (
        <p className="text-sm text-quiet">Nothing ships for physics.</p>
      )}
      {prop.parts.length > 1 && <PartKinds prop={prop} decide={decide} />}
    </>
  );
}

/** What each part has for itself. */
function PartKinds({ prop, decide }: { prop: PropDetail; decide: Decide }) {
  const { parts: rules } = prop.settings.collision;
  const set = (part: string, kind: Kind | typeof AS_ALL) => {
    const others = rules.filter((rule) => rule.part !== part);
    decide("collision", { parts: kind === AS_ALL ? others : [...others, { part, kind }] });
  };
  return (
    <section aria-label="Parts with a kind of their own" className="space-y-1.5 border-t border-rule pt-2">
      <h3 className="font-semibold">Parts of their own kind</h3>
      {prop.parts
        .filter(({ ships }) => ships)
        .map(({ path, name }) => (
          <Labelled key={path} words={name} beside>
            <SelectBox
              label={`Collision of ${name}`}
              className="w-40"
              value={rules.find(({ part }) => part === path)?.kind ?? AS_ALL}
              options={[{ value: AS_ALL, label: "As the whole" }, ...KINDS]}
              onChange={(kind) => set(path, kind as Kind | typeof AS_ALL)}
            />
          </Labelled>
        ))}
    </section>
  );
}
