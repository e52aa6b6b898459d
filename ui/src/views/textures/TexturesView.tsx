import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import type { BoardTexture, BoardTextures } from "../../api/client";
import { texturesQuery } from "../../api/queries";
import { bytes, change, count, inOneUnit, plural } from "../../parts/format";
import { EmptyState, Loading } from "../../parts/Notes";
import { BY, KINDS, quality, shipsAs, shortQuality } from "../../stations/textures/words";

const HEADS = ["texture", "kind", "pixels", "codec", "quality", "on disk", "on the GPU", "share", "props"];
const SHOWN_PROPS = 3;

/** Every texture of the board, each once, the heaviest first. */
export default function TexturesView() {
  const { data, error } = useQuery(texturesQuery);
  if (error) return <EmptyState title="The textures cannot be read">{error.message}</EmptyState>;
  if (!data) return <Loading what="the textures" />;
  if (!data.textures.length)
    return <EmptyState title="No textures yet">Props that are built list theirs here.</EmptyState>;
  return (
    <div className="h-full overflow-auto bg-sheet px-6 py-4">
      <h1 className="text-lg font-semibold">Textures</h1>
      <p className="mb-3 text-quiet">{totals(data)}</p>
      <table className="w-full">
        <thead className="border-b border-rule-strong text-left text-sm text-quiet">
          <tr>
            {HEADS.map((head) => (
              <th key={head} className="py-1.5 pr-4 font-normal whitespace-nowrap">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {data.textures.map((row) => (
            <Row
              key={`${row.texture.image} ${row.texture.digest} ${row.texture.made?.path}`}
              row={row}
              whole={data.gpu_bytes}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function totals({ textures, ...sums }: BoardTextures): string {
  const isSmaller = sums.gpu_bytes < sums.source_gpu_bytes;
  const before = isSmaller ? `, ${change(sums.source_gpu_bytes, sums.gpu_bytes)} beside RGBA8` : "";
  const shared = textures.filter(({ props }) => props.length > 1).length;
  const several = shared ? `; ${shared} ${shared === 1 ? "is" : "are"} used by several props and counted once` : "";
  return `${plural(textures.length, "texture")}: ${bytes(sums.gpu_bytes)} on the GPU with mips${before}, ${bytes(sums.bytes)} on disk${several}.`;
}

function Row({ row: { texture, props }, whole }: { row: BoardTexture; whole: number }) {
  const { made } = texture;
  const size = made?.gpu_bytes ?? texture.gpu_bytes;
  const [width, height] = [made?.width ?? texture.width, made?.height ?? texture.height];
  return (
    <tr className="border-b border-rule align-baseline hover:bg-paper">
      <th className="max-w-64 truncate py-1 pr-4 text-left font-medium" title={made?.path ?? texture.image}>
        {texture.image}
      </th>
      <td className="pr-4 whitespace-nowrap" title={BY[texture.by]}>
        {KINDS[texture.kind]}
      </td>
      <td className="figure pr-4 whitespace-nowrap">
        {width === height ? `${count(width)}²` : `${count(width)} × ${count(height)}`}
      </td>
      <td className="pr-4 whitespace-nowrap">{shipsAs(texture)}</td>
      <td className="figure pr-4 whitespace-nowrap" title={quality(texture)}>
        {shortQuality(texture)}
      </td>
      <td className="figure pr-4 whitespace-nowrap">{bytes(made?.bytes ?? texture.bytes)}</td>
      <td className="figure pr-4 whitespace-nowrap">
        {made ? inOneUnit(texture.gpu_bytes, made.gpu_bytes) : bytes(size)}
      </td>
      <td className="pr-4">
        <span
          aria-label={`${((100 * size) / whole).toFixed(1)} % of all`}
          role="img"
          className="block h-1.5 bg-[var(--lod-4)]"
          style={{ width: `${Math.max((96 * size) / whole, 0.08)}rem`, maxWidth: "6rem" }}
        />
      </td>
      <td className="py-1">
        {props.slice(0, SHOWN_PROPS).map(({ id, name }, k) => (
          <span key={id}>
            {k > 0 && ", "}
            <Link to={`/props/${id}`} className="text-mark underline-offset-2 hover:underline">
              {name}
            </Link>
          </span>
        ))}
        {props.length > SHOWN_PROPS && (
          <span
            className="text-quiet"
            title={props
              .slice(SHOWN_PROPS)
              .map(({ name }) => name)
              .join(", ")}
          >
            {" "}
            and {props.length - SHOWN_PROPS} more
          </span>
        )}
      </td>
    </tr>
  );
}
