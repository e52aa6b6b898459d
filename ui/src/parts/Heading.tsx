/** The heading of a piece of evidence: a question, and how to read the answer. */
export function Heading({ question, reading }: { question: string; reading: string }) {
  return (
    <div className="px-4 pt-2">
      <h2 className="font-semibold">{question}</h2>
      <p className="text-sm text-quiet">{reading}</p>
    </div>
  );
}
