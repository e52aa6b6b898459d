import { keepPreviousData, queryOptions, skipToken } from "@tanstack/react-query";

import { client, take, takeProp } from "./client";

export const keys = {
  project: ["project"] as const,
  props: ["props"] as const,
  prop: (id: number) => ["props", id] as const,
  shipments: ["shipments"] as const,
  shipment: (id: number) => ["shipments", id] as const,
};

export const projectQuery = queryOptions({
  queryKey: keys.project,
  queryFn: async () => take(await client.GET("/api/project")),
  staleTime: Infinity,
});

export const propsQuery = queryOptions({
  queryKey: keys.props,
  queryFn: async () => take(await client.GET("/api/props")),
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

export const previewQuery = (ids: number[], destination: string) =>
  queryOptions({
    queryKey: ["preview", destination, ...ids],
    queryFn: ids.length
      ? async () => take(await client.POST("/api/shipments/preview", { body: { ids, destination } }))
      : skipToken,
    placeholderData: keepPreviousData,
  });
