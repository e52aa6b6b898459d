import { keepPreviousData, queryOptions, skipToken } from "@tanstack/react-query";

import { client, type PropRow, take, takeProp } from "./client";

export const keys = {
  project: ["project"] as const,
  props: ["props"] as const,
  storage: ["storage"] as const,
  prop: (id: number) => ["props", id] as const,
  shipments: ["shipments"] as const,
  selections: ["selections"] as const,
  engine: (folder: string) => ["engine", folder] as const,
  sheet: (id: number | null) => ["sheets", id] as const,
  shipment: (id: number) => ["shipments", id] as const,
};

export const projectQuery = queryOptions({
  queryKey: keys.project,
  queryFn: async () => take(await client.GET("/api/project")),
  staleTime: Infinity,
});

/** The board: read whole once, and then only what changed since. */
export const propsQuery = queryOptions({
  queryKey: keys.props,
  queryFn: async ({ client: queries }) => {
    const known = queries.getQueryData<PropRow[]>(keys.props) ?? [];
    const since = known.reduce<string | undefined>((latest, { changed }) => {
      return latest && Date.parse(latest) >= Date.parse(changed) ? latest : changed;
    }, undefined);
    const { order, rows } = take(await client.GET("/api/props/changes", { params: { query: { since } } }));
    const byId = new Map([...known, ...rows].map((row) => [row.id, row]));
    return order.flatMap((id) => byId.get(id) ?? []);
  },
});

/** Every texture of the board; old as soon as any prop is. */
export const texturesQuery = queryOptions({
  queryKey: [...keys.props, "textures"],
  queryFn: async () => take(await client.GET("/api/textures")),
});

export const storageQuery = queryOptions({
  queryKey: keys.storage,
  queryFn: async () => take(await client.GET("/api/storage")),
  staleTime: 0,
});

export const propQuery = (id: number) =>
  queryOptions({
    queryKey: keys.prop(id),
    queryFn: async () => takeProp(await client.GET("/api/props/{prop_id}", { params: { path: { prop_id: id } } })),
  });

export const shipmentsQuery = queryOptions({
  queryKey: keys.shipments,
  queryFn: async () => take(await client.GET("/api/shipments")),
});

export const shipmentQuery = (id: number) =>
  queryOptions({
    queryKey: keys.shipment(id),
    queryFn: async () =>
      take(await client.GET("/api/shipments/{shipment_id}", { params: { path: { shipment_id: id } } })),
  });

/** Files of earlier shipments that a prop would write no more under its names of now. */
export const leftBehindQuery = (id: number, names: string) =>
  queryOptions({
    queryKey: [...keys.shipments, "left", id, names],
    queryFn: async () =>
      take(await client.GET("/api/props/{prop_id}/left-behind", { params: { path: { prop_id: id } } })),
  });

/** What a delivery of a shipment into a folder would do; asked again when one was done. */
export const deliveryQuery = (id: number, folder: string, state: string) =>
  queryOptions({
    queryKey: [...keys.shipment(id), "delivery", folder, state],
    queryFn: async () =>
      take(
        await client.GET("/api/shipments/{shipment_id}/delivery", {
          params: { path: { shipment_id: id }, query: { folder } },
        }),
      ),
    retry: false,
    staleTime: 0,
  });

const SHEET_PAUSE = 400;

/** A sheet that was ordered, read again while it is made. */
export const sheetQuery = (id: number | null) =>
  queryOptions({
    queryKey: keys.sheet(id),
    queryFn:
      id === null
        ? skipToken
        : async () => take(await client.GET("/api/sheets/{sheet_id}", { params: { path: { sheet_id: id } } })),
    refetchInterval: ({ state }) => (state.data?.state === "running" ? SHEET_PAUSE : false),
    staleTime: 0,
  });

/** What a shipment would write into a folder; read again as props and shipments change. */
export const previewQuery = (ids: number[], destination: string, folder: string) =>
  queryOptions({
    queryKey: [...keys.shipments, "preview", destination, folder, ...ids],
    queryFn: ids.length
      ? async () =>
          take(await client.POST("/api/shipments/preview", { body: { ids, destination, folder, removes: false } }))
      : skipToken,
    placeholderData: keepPreviousData,
    retry: false,
  });

export const selectionsQuery = queryOptions({
  queryKey: keys.selections,
  queryFn: async () => take(await client.GET("/api/selections")),
});

export const comparedQuery = (id: number) =>
  queryOptions({
    queryKey: [...keys.shipment(id), "compare"],
    queryFn: async () =>
      take(await client.GET("/api/shipments/{shipment_id}/compare", { params: { path: { shipment_id: id } } })),
  });

export const rehearsalQuery = (item: number) =>
  queryOptions({
    queryKey: [...keys.shipments, "rehearsal", item],
    queryFn: async () =>
      take(await client.GET("/api/shipments/items/{item_id}/rehearsal", { params: { path: { item_id: item } } })),
    staleTime: Infinity,
  });

const LOOK = 2000;
const WAIT = 400;

/** The engine project of a folder; it looks at its files again and again, as engines do. */
export const engineQuery = (folder: string) =>
  queryOptions({
    queryKey: keys.engine(folder),
    queryFn: async () => take(await client.GET("/api/engine", { params: { query: { folder } } })),
    refetchInterval: ({ state }) => (state.data?.is_importing ? WAIT : LOOK),
    retry: false,
  });
