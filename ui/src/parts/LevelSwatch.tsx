const CHIP = ["--lod-0", "--lod-1", "--lod-2", "--lod-3", "--lod-4", "--lod-5", "--lod-6", "--lod-7"];

/** The tint of a level: deeper water for a further one. */
export function LevelSwatch({ index }: { index: number }) {
  return (
    <span
      aria-hidden
      className="inline-block size-2.5 border border-rule-control"
      style={{ background: `var(${CHIP[index] ?? "--lod-7"})` }}
    />
  );
}
