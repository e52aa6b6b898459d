import { useEffect, useRef, useState } from "react";

import type { ActiveJob } from "./activity";

/** How many jobs must be done before their pace says how long the others take. */
const KNOWN = 3;

/** All that the server has been working on since it was idle last. */
export interface Run {
  began: number;
  /** Jobs that were seen, whether done or not. */
  seen: ReadonlySet<number>;
}

export interface RunRead {
  /** How much of the whole run is done. */
  fraction: number;
  /** Seconds until all is done at the pace so far; null while that says nothing. */
  left: number | null;
}

/** The run with the jobs that are known now; null where there are none. */
export function runWith(run: Run | null, jobs: ActiveJob[], now: number): Run | null {
  if (!jobs.length) return null;
  const seen = new Set(run?.seen);
  for (const { id } of jobs) seen.add(id);
  return run && seen.size === run.seen.size ? run : { began: run?.began ?? now, seen };
}

/** How far a run is. */
export function readRun({ began, seen }: Run, jobs: ActiveJob[], now: number): RunRead {
  const done = seen.size - jobs.length;
  const fraction = (done + jobs.reduce((sum, job) => sum + job.fraction, 0)) / Math.max(seen.size, 1);
  const taken = (now - began) / 1000;
  return { fraction, left: done < KNOWN || taken <= 0 ? null : (taken * (1 - fraction)) / fraction };
}

/** How far the server is with all that it was given since it was idle last; null while it is. */
export function useRun(jobs: ActiveJob[]): RunRead | null {
  const run = useRef<Run | null>(null);
  const [read, setRead] = useState<RunRead | null>(null);
  useEffect(() => {
    const now = Date.now();
    run.current = runWith(run.current, jobs, now);
    setRead(run.current && readRun(run.current, jobs, now));
  }, [jobs]);
  return read;
}
