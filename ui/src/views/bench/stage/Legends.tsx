import { APART } from "../../../surface/palette";
import { SLANT_FULL } from "../../../viewport/studies";

/** What the colours of the slant mean. */
export function SlantScale() {
  return (
    <div className="absolute right-3 bottom-32 rounded border border-rule-strong bg-sheet/95 px-2 py-1.5 text-sm">
      <div>face to shading</div>
      <div className="h-2 w-36" style={{ background: "linear-gradient(90deg, #f3f5f3, #edcd7c, #bd3190)" }} />
      <div className="figure flex justify-between">
        <span>0°</span>
        <span>{SLANT_FULL}°</span>
      </div>
    </div>
  );
}

/** Which colour is which material. */
export function MaterialNames({ names }: { names: string[] }) {
  return (
    <ul className="absolute top-24 left-3 rounded border border-rule-strong bg-sheet/95 px-2 py-1.5">
      {names.map((name, i) => (
        <li key={name} className="flex items-center gap-2">
          <span className="size-2.5" style={{ background: APART[i % APART.length] }} />
          {name}
        </li>
      ))}
    </ul>
  );
}
