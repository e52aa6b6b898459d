import { Button } from "../../../parts/Button";
import { EmptyState, Loading } from "../../../parts/Notes";

interface AbsentProps {
  prop: { readiness: string; error: string };
  loading: boolean;
  problem: string | null;
  onRebuild: () => void;
}

/** In place of the view while there is nothing to draw. */
export function Absent({ prop, loading, problem, onRebuild }: AbsentProps) {
  if (loading) return <Loading what="the model" />;
  if (problem) return <EmptyState title="The model cannot be drawn">{problem}</EmptyState>;
  if (prop.readiness === "held") return <EmptyState title="Nothing to draw">A finding holds this prop back before it has a shape; see the findings at the left.</EmptyState>;
  return (
    <EmptyState title="Not built">
      {prop.error || "The build was called off."}{" "}
      <Button className="mt-2" onClick={onRebuild}>
        Build it
      </Button>
    </EmptyState>
  );
}
