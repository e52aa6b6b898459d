import { Button } from "../../../parts/Button";
import { EmptyState, Loading } from "../../../parts/Notes";

interface NothingToDrawProps {
  prop: { readiness: string; error: string };
  loading: boolean;
  problem: string | null;
  onRebuild: () => void;
  onRetry: () => void;
}

/** In place of the view while there is nothing to draw. */
export function NothingToDraw({ prop, loading, problem, onRebuild, onRetry }: NothingToDrawProps) {
  if (loading) return <Loading what="the model" />;
  if (problem) {
    return (
      <EmptyState title="The model could not be loaded">
        {problem}{" "}
        <Button className="mt-2" onClick={onRetry}>
          Try again
        </Button>
      </EmptyState>
    );
  }
  if (prop.readiness === "held")
    return (
      <EmptyState title="Nothing to draw">
        A finding holds this prop back before it has a shape; see the findings at the left.
      </EmptyState>
    );
  return (
    <EmptyState title="Not built">
      {prop.error || "The build was called off."}{" "}
      <Button className="mt-2" onClick={onRebuild}>
        Build it
      </Button>
    </EmptyState>
  );
}
