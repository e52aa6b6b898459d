import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { client, take } from "../../api/client";
import { keys as boardKeys } from "../../api/queries";
import { useNotify } from "../../parts/Toasts";
import { type Entry, keys, type Rule } from "./api";
import type { Data, Kind } from "./schema";
import { forgetDraft } from "./useDraft";

const BY = "plindro.by";

/** What is done with a line or a destination as a whole. */
export function useWays(kind: Kind, entry: Entry, isNew: boolean, forget: () => void) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const notify = useNotify();
  const [by, setName] = useState(() => localStorage.getItem(BY) ?? "");
  const place = kind === "line" ? "/lines" : "/destinations";
  const refused = (error: Error) => notify({ title: error.message, isProblem: true });
  const again = () => {
    void queries.invalidateQueries({ queryKey: keys.all(kind) });
    void queries.invalidateQueries({ queryKey: ["draft"] });
    void queries.invalidateQueries({ queryKey: boardKeys.props });
    void queries.invalidateQueries({ queryKey: boardKeys.project });
  };
  const saved = (next: Entry) => {
    forget();
    queries.setQueryData(keys.one(kind, next.name), next);
    again();
    const stale = next.users.filter(({ is_stale }) => is_stale).length;
    const lines =
      stale === 1
        ? ["1 prop is built by what it was; build it when it suits"]
        : stale
          ? [`${stale} props are built by what it was; build them when it suits`]
          : [];
    notify({
      title: `${next.title}: version ${next.number} saved`,
      lines,
      ...(stale ? { action: { label: `Build ${stale}`, run: () => build.mutate() } } : {}),
    });
    void navigate(`${place}/${next.name}`);
  };
  const path = { kind, name: entry.name };
  const save = useMutation({
    mutationFn: async (data: Data) =>
      take(
        await client.POST("/api/catalogue/{kind}", {
          params: { path: { kind } },
          body: { data, by, ...(isNew ? {} : { seen: entry.number }) },
        }),
      ),
    onSuccess: saved,
    onError: refused,
  });
  const restore = useMutation({
    mutationFn: async (number: number) =>
      take(
        await client.POST("/api/catalogue/{kind}/{name}/restore", {
          params: { path },
          body: { number, seen: entry.number, by },
        }),
      ),
    onSuccess: saved,
    onError: refused,
  });
  const bringEntryBack = useMutation({
    mutationFn: async (rules: Rule[]) => {
      const body = { data: entry.data, by };
      const next = take(await client.POST("/api/catalogue/{kind}", { params: { path: { kind } }, body }));
      // The rules that named it went with it.
      if (rules.length) take(await client.POST("/api/line-rules", { body: { rules } }));
      return next;
    },
    onSuccess: (next) => {
      again();
      void queries.invalidateQueries({ queryKey: keys.rules });
      void navigate(`${place}/${next.name}`);
    },
    onError: refused,
  });
  const remove = useMutation({
    mutationFn: async () => {
      const rules = kind === "line" ? take(await client.GET("/api/line-rules")) : [];
      take(await client.POST("/api/catalogue/{kind}/{name}/remove", { params: { path }, body: { by } }));
      return rules;
    },
    onSuccess: (rules) => {
      forget();
      void navigate(place);
      queries.removeQueries({ queryKey: keys.one(kind, entry.name) });
      void queries.invalidateQueries({ queryKey: keys.rules });
      again();
      notify({
        title: `${entry.title} is gone`,
        action: { label: "Undo", run: () => bringEntryBack.mutate(rules) },
      });
    },
    onError: refused,
  });
  const build = useMutation({
    mutationFn: async () =>
      take(
        await client.POST("/api/lines/build-stale", { params: { query: kind === "line" ? { line: entry.name } : {} } }),
      ),
    onSuccess: again,
    onError: refused,
  });
  const bringBack = useMutation({
    mutationFn: async (body: { props: number[]; fields: string[] }) =>
      take(await client.POST("/api/lines/bring-back", { body })),
    onSuccess: again,
    onError: refused,
  });
  const takeOver = useMutation({
    mutationFn: async (body: { prop: number; fields: string[] }) =>
      take(await client.POST("/api/lines/take-over", { body: { ...body, seen: entry.number, by } })),
    onSuccess: saved,
    onError: refused,
  });
  return {
    by,
    setBy: (name: string) => {
      localStorage.setItem(BY, name);
      setName(name);
    },
    isSaving: save.isPending,
    save: save.mutate,
    restore: restore.mutate,
    remove: () => remove.mutate(),
    build: () => build.mutate(),
    bringBack: (props: number[], fields: string[]) => bringBack.mutate({ props, fields }),
    takeOver: (prop: number, fields: string[]) => takeOver.mutate({ prop, fields }),
    copy: (data: Data) => {
      const name = typeof data.name === "string" ? data.name : entry.name;
      const title = typeof data.title === "string" ? data.title : entry.title;
      // Another new one that was begun before does not stand in its place.
      forgetDraft(`${kind} `);
      void navigate(`${place}/new`, { state: { ...data, name: `${name}-copy`, title: `${title}, copy` } });
    },
    exportJson: (data: Data) => download(`${String(data.name)}.json`, JSON.stringify(data, null, 2)),
  };
}

function download(name: string, text: string): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type: "application/json" }));
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}
