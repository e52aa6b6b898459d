/** What the server knows of lines and destinations. */
import { keepPreviousData, queryOptions, skipToken } from "@tanstack/react-query";

import { client, type components, take } from "../../api/client";
import type { Data, Kind, Schema } from "./schema";

type Schemas = components["schemas"];
export type Entry = Schemas["EntryOut"];
export type EntryRow = Schemas["EntryRow"];
export type Draft = Schemas["DraftOut"];
export type Fault = Schemas["FaultOut"];
export type Difference = Schemas["DifferenceOut"];
export type NamedProp = Schemas["NamedProp"];
export type TrialRow = Schemas["TrialRow"];
export type Rule = Schemas["RuleRow"];

export const keys = {
  all: (kind: Kind) => ["catalogue", kind] as const,
  one: (kind: Kind, name: string) => ["catalogue", kind, name] as const,
  rules: ["line-rules"] as const,
  trial: (id: number | null) => ["trials", id] as const,
};

export const entriesQuery = (kind: Kind) =>
  queryOptions({
    queryKey: keys.all(kind),
    queryFn: async () => take(await client.GET("/api/catalogue/{kind}", { params: { path: { kind } } })),
  });

export const entryQuery = (kind: Kind, name: string) =>
  queryOptions({
    queryKey: keys.one(kind, name),
    queryFn: async () => take(await client.GET("/api/catalogue/{kind}/{name}", { params: { path: { kind, name } } })),
  });

export const schemaQuery = (kind: Kind) =>
  queryOptions({
    queryKey: ["schema", kind],
    queryFn: async () =>
      take(await client.GET("/api/catalogue/{kind}/schema", { params: { path: { kind } } })) as Schema,
    staleTime: Infinity,
  });

/** What a draft does, told again after each change. */
export const draftQuery = (kind: Kind, data: Data | null) =>
  queryOptions({
    queryKey: ["draft", kind, JSON.stringify(data)],
    queryFn: data
      ? async () =>
          take(await client.POST("/api/catalogue/{kind}/draft", { params: { path: { kind } }, body: { data } }))
      : skipToken,
    placeholderData: keepPreviousData,
  });

const TRIAL_PAUSE = 500;

export const trialQuery = (id: number | null) =>
  queryOptions({
    queryKey: keys.trial(id),
    queryFn:
      id === null
        ? skipToken
        : async () => take(await client.GET("/api/trials/{trial_id}", { params: { path: { trial_id: id } } })),
    refetchInterval: ({ state }) => (state.data?.rows.some((row) => row.state === "waiting") ? TRIAL_PAUSE : false),
    staleTime: 0,
  });

export const rulesQuery = queryOptions({
  queryKey: keys.rules,
  queryFn: async () => take(await client.GET("/api/line-rules")),
});
