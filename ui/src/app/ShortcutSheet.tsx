import { STATIONS } from "../stations/registry";
import { SHORTCUTS } from "./shortcuts";

const ALL_KEYS = [
  ...SHORTCUTS,
  ...STATIONS.filter(({ keys }) => keys.length).map(({ title, keys }) => ({ where: `Bench, ${title}`, keys })),
];

/** All shortcuts; fetched when it is opened, for it brings the stations with it. */
export default function ShortcutSheet() {
  return (
    <div className="grid gap-x-8 gap-y-4 sm:grid-cols-2">
      {ALL_KEYS.map(({ where, keys }) => (
        <section key={where}>
          <h3 className="mb-1 font-semibold">{where}</h3>
          <dl className="grid grid-cols-[auto_1fr] gap-x-3 gap-y-1">
            {keys.map(([key, meaning]) => (
              <div key={key} className="contents">
                <dt className="figure rounded border border-rule px-1 text-sm leading-5">{key}</dt>
                <dd>{meaning}</dd>
              </div>
            ))}
          </dl>
        </section>
      ))}
    </div>
  );
}
