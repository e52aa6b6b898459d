import type { Finding } from "../../../api/client";
import type { ActiveJob } from "../../../app/activity";
import { Button } from "../../../parts/Button";
import { Progress } from "../../../parts/Progress";

const AT_TOP = "absolute top-3 left-1/2 flex -translate-x-1/2 items-center rounded border bg-sheet/95";

/** From place to place of the finding that is led to. */
export function PlaceStepper({
  finding,
  place,
  count,
  onStep,
}: {
  finding: Finding;
  place: number | null;
  count: number;
  onStep: (by: number) => void;
}) {
  return (
    <div className={`${AT_TOP} gap-2 border-rule-strong px-2 py-1`} role="status">
      <Button kind="quiet" className="!h-6 !px-1" aria-label="Place before" onClick={() => onStep(-1)}>
        ‹
      </Button>
      <span className="figure">
        {place === null ? `all ${count}` : `${place + 1} / ${count}`}
        {finding.count > count ? ` of ${finding.count}` : ""}
      </span>
      <span>{finding.code.replaceAll("-", " ")}</span>
      <Button kind="quiet" className="!h-6 !px-1" aria-label="Next place" onClick={() => onStep(1)}>
        ›
      </Button>
    </div>
  );
}

/** How far the build is. */
export function Building({ job, onCancel }: { job: ActiveJob; onCancel: () => void }) {
  return (
    <div className="w-72 rounded border border-rule-strong bg-sheet px-3 py-2" role="status">
      <div className="mb-1 flex items-center justify-between gap-2">
        <span className="truncate">{job.doing || "waiting for its turn"}</span>
        <Button kind="quiet" className="!h-6" onClick={onCancel}>
          Cancel
        </Button>
      </div>
      <Progress label="building the prop" fraction={job.fraction} />
    </div>
  );
}

/** Why the last build gave nothing. */
export function BuildFailed({ error, onRebuild }: { error: string; onRebuild: () => void }) {
  return (
    <div role="alert" className={`${AT_TOP} max-w-lg gap-3 border-stop px-3 py-2`}>
      <span>{error}</span>
      <Button onClick={onRebuild}>Build again</Button>
    </div>
  );
}
