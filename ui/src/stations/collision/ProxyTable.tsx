import type { PropDetail } from "../../api/client";
import { count } from "../../parts/format";
import { Heading } from "../../parts/Heading";
import { fitOf, proxies, SHAPES, volume } from "./words";

interface ProxyTableProps {
  prop: PropDetail;
  selected: number | null;
  onSelect: (index: number | null) => void;
}

/** Every proxy with its size, and how all of them fit. */
export function ProxyTable({ prop, selected, onSelect }: ProxyTableProps) {
  const facts = prop.facts.collision;
  const names = prop.facts.naming?.proxies ?? [];
  if (!facts?.proxies.length)
    return <p className="grid h-full place-items-center text-quiet">No collision ships with this prop.</p>;
  return (
    <div className="flex h-full flex-col">
      <Heading question={`What do ${proxies(facts.proxies.length)} stop?`} reading={fitOf(facts)} />
      <div className="min-h-0 grow overflow-auto px-4 pb-2" tabIndex={0} role="region" aria-label="Collision proxies">
        <table className="w-full">
          <thead className="sticky top-0 bg-sheet">
            <tr className="text-left text-sm text-quiet">
              {["proxy", "shape", "corners", "triangles", "volume", "of part"].map((title) => (
                <th key={title} className="py-0.5 pr-3 font-normal whitespace-nowrap">
                  {title}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {facts.proxies.map((row, k) => (
              <tr key={k} className={`border-t border-rule ${k === selected ? "bg-mark-tint" : ""}`}>
                <th className="max-w-56 py-0.5 pr-3 text-left font-medium">
                  <button
                    type="button"
                    aria-pressed={k === selected}
                    onClick={() => onSelect(k === selected ? null : k)}
                    className="block max-w-full truncate text-left hover:underline"
                  >
                    {names[k] ?? `no. ${k}`}
                  </button>
                </th>
                <td className="pr-3 whitespace-nowrap">{SHAPES[row.shape]}</td>
                <td className="figure pr-3">{count(row.corners)}</td>
                <td className="figure pr-3">{count(row.triangles)}</td>
                <td className="figure pr-3 whitespace-nowrap">{volume(row.volume)}</td>
                <td className="truncate text-quiet">{row.part || "the whole"}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </div>
  );
}
