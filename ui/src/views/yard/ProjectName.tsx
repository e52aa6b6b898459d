import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { client, take } from "../../api/client";
import { keys, projectQuery } from "../../api/queries";
import { useNotify } from "../../parts/Toasts";

/** The project's name; a click makes a field of it. */
export function ProjectName() {
  const { data: project } = useQuery(projectQuery);
  const [draft, setDraft] = useState<string | null>(null);
  const queries = useQueryClient();
  const notify = useNotify();
  const { mutate } = useMutation({
    mutationFn: async (name: string) => take(await client.PATCH("/api/project", { body: { name } })),
    onSuccess: (answer) => queries.setQueryData(keys.project, answer),
    onError: (problem) => notify({ title: problem.message, isProblem: true }),
  });
  if (!project) return null;
  const commit = () => {
    if (draft?.trim() && draft.trim() !== project.name) mutate(draft);
    setDraft(null);
  };
  if (draft !== null) {
    return (
      <input
        aria-label="Project name"
        // The field takes the place of the button that was pressed.
        ref={(field) => field?.focus()}
        value={draft}
        maxLength={80}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          if (event.key === "Enter") commit();
          if (event.key === "Escape") setDraft(null);
        }}
        className="h-7 w-64 rounded border border-rule-control bg-sheet px-2 text-lg font-semibold"
      />
    );
  }
  return (
    <h1>
      <button
        type="button"
        aria-label={`Name the project${project.name ? `, ${project.name}` : ""}`}
        title="rename the project"
        className={`text-lg font-semibold hover:underline ${project.name ? "" : "text-quiet"}`}
        onClick={() => setDraft(project.name)}
      >
        {project.name || "Untitled project"}
      </button>
    </h1>
  );
}
