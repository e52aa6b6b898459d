import { Link } from "react-router";

import { Button } from "../../parts/Button";
import { plural } from "../../parts/format";
import type { Entry } from "./api";
import { whole } from "./Differences";
import { shown } from "./schema";

interface UsersPanelProps {
  entry: Entry;
  /** Settings that a line has; others are made by hand on a prop. */
  ofLine: Set<string>;
  onBuild: () => void;
  onBack: (props: number[], fields: string[]) => void;
  onTake: (prop: number, fields: string[]) => void;
}

/** The props on a line, and what each has of its own: back to the line, or into it. */
export function UsersPanel({ entry, ofLine, onBuild, onBack, onTake }: UsersPanelProps) {
  const stale = entry.users.filter(({ is_stale }) => is_stale).length;
  const own = entry.users.filter(({ overrides }) => overrides.length > 0);
  if (!entry.users.length) return <p className="p-3 text-quiet">No prop is on this line.</p>;
  return (
    <div className="space-y-3 p-3">
      <p className="text-quiet">
        {plural(entry.users.length, "prop")},{" "}
        {own.length ? `${own.length} with settings of their own` : "none with settings of its own"}.
      </p>
      {stale > 0 && (
        <div className="flex items-center justify-between gap-2 border-l-2 border-warning pl-2">
          <span>{plural(stale, "prop")} built before the line changed</span>
          <Button kind="mark" onClick={onBuild}>
            Build {stale}
          </Button>
        </div>
      )}
      <ul className="space-y-2">
        {entry.users.map((user) => (
          <li key={user.id} className="border-b border-rule pb-1.5">
            <Link to={`/props/${user.id}`} className="font-medium hover:underline">
              {user.name}
            </Link>
            {user.is_stale && <span className="text-sm text-warning"> · stale</span>}
            {user.overrides.map(({ field, before, after }) => (
              <div key={field} className="mt-0.5 text-sm">
                <span className="text-quiet">{whole(field)}: </span>
                <span className="figure break-words">
                  {shown(after)} <span className="text-quiet">(line: {shown(before)})</span>
                </span>
                {ofLine.has(field) ? (
                  <span className="ml-1 inline-flex gap-1">
                    <Button kind="quiet" className="!h-5 !px-1 text-sm" onClick={() => onBack([user.id], [field])}>
                      Back to the line
                    </Button>
                    <Button kind="quiet" className="!h-5 !px-1 text-sm" onClick={() => onTake(user.id, [field])}>
                      Into the line
                    </Button>
                  </span>
                ) : (
                  <span className="text-quiet"> by hand</span>
                )}
              </div>
            ))}
          </li>
        ))}
      </ul>
    </div>
  );
}
