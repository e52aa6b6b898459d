import { bytes, change, count, inOneUnit } from "../../parts/format";
import { Heading } from "../../parts/Heading";
import { BY, KINDS, quality, shipsAs, shortQuality, type TextureRow, type TexturesFacts } from "./words";
import { CodecDots } from "./CodecDots";

interface TextureTableProps {
  facts: TexturesFacts;
  selected: string | null;
  onSelect: (image: string) => void;
}

/** Every image in use, what it became, and all together against the destination's budget. */
export function TextureTable({ facts, selected, onSelect }: TextureTableProps) {
  const row = facts.textures.find(({ image }) => image === selected) ?? null;
  return (
    <div className="flex h-full">
      <div className="flex min-w-0 grow flex-col">
        <Heading question="What do the textures cost, and what do they lose?" reading={totals(facts)} />
        <div
          className="min-h-0 grow overflow-auto px-4 pb-2"
          tabIndex={0}
          role="region"
          aria-label="Textures in figures"
        >
          <table className="w-full">
            <thead className="sticky top-0 bg-sheet">
              <tr className="text-left text-sm text-quiet">
                {["texture", "kind", "pixels", "codec", "quality", "on disk", "on the GPU"].map((title) => (
                  <th key={title} className="py-0.5 pr-3 font-normal whitespace-nowrap">
                    {title}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {facts.textures.map((one) => (
                <Row key={one.image} row={one} isSelected={one.image === selected} onSelect={onSelect} />
              ))}
            </tbody>
          </table>
        </div>
      </div>
      {row && row.trials.length > 0 && <CodecDots row={row} />}
    </div>
  );
}

function Row({
  row,
  isSelected,
  onSelect,
}: {
  row: TextureRow;
  isSelected: boolean;
  onSelect: (image: string) => void;
}) {
  const { made } = row;
  return (
    <tr className={`border-t border-rule align-top ${isSelected ? "bg-mark-tint" : ""}`}>
      <th className="max-w-48 py-0.5 pr-3 text-left font-medium">
        <button
          type="button"
          aria-pressed={isSelected}
          onClick={() => onSelect(row.image)}
          className="block max-w-full truncate text-left hover:underline"
          title={`${row.image}, of ${row.materials.join(", ")}`}
        >
          {row.image}
        </button>
      </th>
      <td className="pr-3 whitespace-nowrap" title={BY[row.by]}>
        {KINDS[row.kind]}
      </td>
      <td className="figure pr-3 whitespace-nowrap">
        {row.width === row.height ? `${count(row.width)}²` : `${count(row.width)} × ${count(row.height)}`}
      </td>
      <td className="pr-3 whitespace-nowrap">{shipsAs(row)}</td>
      <td className="figure pr-3 whitespace-nowrap" title={quality(row)}>
        {shortQuality(row)}
      </td>
      <td className="figure pr-3 whitespace-nowrap">
        {made ? (row.bytes ? inOneUnit(row.bytes, made.bytes) : bytes(made.bytes)) : bytes(row.bytes)}
      </td>
      <td className="figure pr-3 whitespace-nowrap">
        {made ? inOneUnit(row.gpu_bytes, made.gpu_bytes) : bytes(row.gpu_bytes)}
      </td>
    </tr>
  );
}

function totals(facts: TexturesFacts): string {
  const budget = facts.budget_bytes === null ? "" : `, of ${bytes(facts.budget_bytes)} that the destination allows`;
  const isSmaller = facts.gpu_bytes < facts.source_gpu_bytes;
  const before = isSmaller ? `${bytes(facts.source_gpu_bytes)} → ` : "";
  const less = isSmaller ? ` (${change(facts.source_gpu_bytes, facts.gpu_bytes)})` : "";
  return `All together ${before}${bytes(facts.gpu_bytes)}${less} on the GPU with mips${budget}.`;
}
