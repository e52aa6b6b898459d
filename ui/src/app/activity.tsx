import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useContext, useEffect, useRef, useState } from "react";

import { keys } from "../api/queries";
import { useNotify } from "../parts/Toasts";

/** A job that waits or runs. */
export interface ActiveJob {
  id: number;
  kind: string;
  state: "queued" | "running";
  fraction: number;
  doing: string;
  /** The prop that it builds, or the item of a shipment that it ships. */
  subject: number | null;
}

interface Snapshot {
  jobs: ActiveJob[];
  props: string;
  shipments: string;
  problem: { id: number; message: string } | null;
}

interface Activity {
  jobs: ActiveJob[];
  connected: boolean;
}

const ActivityContext = createContext<Activity | null>(null);

/** What the server is working on, and whether the connection stands. */
export function useActivity(): Activity {
  const activity = useContext(ActivityContext);
  if (!activity) throw new Error("useActivity must be used within an ActivityProvider");
  return activity;
}

/** Reads again what was asked for before the server was first heard: it may have changed in between. */
function readAgain(queries: QueryClient) {
  for (const queryKey of [keys.props, keys.shipments]) {
    for (const query of queries.getQueryCache().findAll({ queryKey })) {
      const renew = () => queries.invalidateQueries({ queryKey: query.queryKey, exact: true });
      // One that is under way would be taken for fresh when it comes.
      void Promise.resolve(query.promise).then(renew, renew);
    }
  }
}

/** Listens to the server; what changed there is read again. */
export function ActivityProvider({ children }: { children: ReactNode }) {
  const [activity, setActivity] = useState<Activity>({ jobs: [], connected: true });
  const last = useRef<Snapshot | null>(null);
  const queries = useQueryClient();
  const notify = useNotify();
  useEffect(() => {
    const source = new EventSource("/api/events");
    source.onmessage = (event: MessageEvent<string>) => {
      const now = JSON.parse(event.data) as Snapshot;
      const before = last.current;
      last.current = now;
      setActivity({ jobs: now.jobs, connected: true });
      if (!before) readAgain(queries);
      if (before && before.props !== now.props) void queries.invalidateQueries({ queryKey: keys.props });
      if (before && before.shipments !== now.shipments) void queries.invalidateQueries({ queryKey: keys.shipments });
      if (before && now.problem && before.problem?.id !== now.problem.id) {
        notify({ title: now.problem.message, isProblem: true });
      }
    };
    source.onerror = () => setActivity((old) => ({ ...old, connected: false }));
    return () => source.close();
  }, [queries, notify]);
  return <ActivityContext.Provider value={activity}>{children}</ActivityContext.Provider>;
}
