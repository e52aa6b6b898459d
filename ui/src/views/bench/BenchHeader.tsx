import { Link } from "react-router";

import type { PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { ReadinessMark } from "../../parts/Severity";
import { TopFigures } from "./TopFigures";

interface BenchHeaderProps {
  project: string;
  prop: PropDetail;
  onUndo: () => void;
  onRedo: () => void;
  onShip: () => void;
  onRebuild: () => void;
}

/** The prop's name, how it stands, its figures beside their budgets, and what is done with it as a whole. */
export function BenchHeader({ project, prop, onUndo, onRedo, onShip, onRebuild }: BenchHeaderProps) {
  const behind = whyBehind(prop);
  return (
    <div className="flex h-12 shrink-0 items-center gap-6 overflow-x-auto border-b border-rule bg-sheet px-4">
      <h1 className="min-w-24 truncate text-quiet" title={prop.name}>
        <Link to="/" className="hover:text-ink">
          {project || "Untitled project"}
        </Link>{" "}
        / <strong className="text-lg font-semibold text-ink">{prop.name}</strong>
      </h1>
      <span className="shrink-0 whitespace-nowrap">
        <ReadinessMark value={prop.readiness} />
      </span>
      {behind && (
        <span className="flex shrink-0 items-center gap-2 whitespace-nowrap text-warning">
          {behind}
          <Button kind="mark" onClick={onRebuild}>
            Build
          </Button>
        </span>
      )}
      <div className="ml-auto shrink-0">
        <TopFigures prop={prop} />
      </div>
      <div className="flex shrink-0 gap-1">
        <Button aria-label="Undo" title={undoTitle(prop.undo)} disabled={!prop.undo} onClick={onUndo}>
          ↶
        </Button>
        <Button
          aria-label="Redo"
          title={prop.redo ? `Redo: ${prop.redo}` : "nothing to redo"}
          disabled={!prop.redo}
          onClick={onRedo}
        >
          ↷
        </Button>
      </div>
      <Button kind="primary" onClick={onShip}>
        Ship…
      </Button>
    </div>
  );
}

/** Why what is shown is not what the settings ask for; null where it is. */
function whyBehind(prop: PropDetail): string | null {
  if (prop.readiness === "cancelled" && prop.model) return "last change not built";
  return prop.is_stale ? "its line was changed since" : null;
}

function undoTitle(last: PropDetail["undo"]): string {
  if (!last) return "nothing to undo";
  return last.is_own ? `Undo: ${last.label}` : `Undo: ${last.label} (decided in another browser)`;
}
