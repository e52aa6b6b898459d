/** What is drawn left and right of the split. */
export function Sides({ left, right }: { left: string; right: string }) {
  return (
    <>
      <span className="absolute top-3 left-3 rounded border border-rule-strong bg-sheet/95 px-2 py-1">{left}</span>
      <span className="absolute top-3 right-3 rounded border border-rule-strong bg-sheet/95 px-2 py-1">{right}</span>
    </>
  );
}
