import { useQuery } from "@tanstack/react-query";
import { Navigate, useLocation, useNavigate, useParams } from "react-router";

import { EmptyState, Loading } from "../../parts/Notes";
import { entriesQuery, type Entry, entryQuery } from "./api";
import { Editor } from "./Editor";
import { EntryList } from "./EntryList";
import { Rules } from "./Rules";
import type { Data, Kind } from "./schema";
import { forgetDraft } from "./useDraft";

const NEW = "new";
const RULES = "rules";

/** The house's lines, or its destinations: which there are, and one of them as a page. */
export default function HouseView({ kind }: { kind: Kind }) {
  const { name } = useParams();
  const { state } = useLocation() as { state: Data | null };
  const navigate = useNavigate();
  const { data: rows, error } = useQuery(entriesQuery(kind));
  const place = kind === "line" ? "/lines" : "/destinations";
  if (error) return <EmptyState title="They cannot be read">{error.message}</EmptyState>;
  if (!rows) return <Loading what={`the ${kind}s`} />;
  const first = rows.find(({ users }) => users > 0) ?? rows[0];
  if (!name && first) return <Navigate to={`${place}/${first.name}`} replace />;
  const start = (data: Data) => {
    forgetDraft(`${kind} `);
    const known = rows.find((row) => row.name === data.name);
    void navigate(`${place}/${NEW}`, { state: known ? { ...data, name: `${String(data.name)}-copy` } : data });
  };
  return (
    <div className="flex h-full">
      <EntryList kind={kind} rows={rows} onImport={start} />
      {name === RULES && kind === "line" ? (
        <div className="min-w-0 grow">
          <Rules />
        </div>
      ) : name === NEW && state ? (
        <Editor key={NEW} kind={kind} entry={newEntry(kind, state)} isNew start={state} />
      ) : (
        <Known key={name} kind={kind} name={name ?? ""} />
      )}
    </div>
  );
}

function Known({ kind, name }: { kind: Kind; name: string }) {
  const { data: entry, error } = useQuery(entryQuery(kind, name));
  if (error) return <EmptyState title={`There is no such ${kind}`}>{error.message}</EmptyState>;
  if (!entry) return <Loading what={`the ${kind}`} />;
  return <Editor kind={kind} entry={entry} isNew={false} start={entry.data as Data} />;
}

const newEntry = (kind: Kind, data: Data): Entry => ({
  kind,
  name: "",
  title: "",
  number: 0,
  is_ours: false,
  data,
  came: null,
  versions: [],
  users: [],
});
