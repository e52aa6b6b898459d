import type { Finding, PropRow, Severity, Shipment } from "../api/client";

/** A row of the board, ready to ship. */
export const propRow = (id: number, name: string, more: Partial<PropRow> = {}): PropRow =>
  ({
    id,
    changed: "2026-03-02T10:15:00Z",
    name,
    source_name: `${name}.obj`,
    source_bytes: 2048,
    line: "standing",
    readiness: "ready",
    picture: null,
    format: "OBJ",
    triangles: 1000 * id,
    triangle_budget: 2500,
    engine_vertices: 600 * id,
    vertex_limit: 65535,
    levels: 3,
    last_triangles: 40,
    materials: 2,
    material_budget: 2,
    size: [0.5 * id, 0.2, 0.1],
    stops: 0,
    warnings: 0,
    infos: 0,
    error: "",
    is_stale: false,
    ...more,
  }) as PropRow;

/** The board as the server tells it to a page that has not read it yet. */
export const board = (rows: PropRow[]) => ({ order: rows.map(({ id }) => id), rows });

/** A finding of the levels that can be led to nowhere. */
export const finding = (severity: Severity, code: string, more: Partial<Finding> = {}): Finding => ({
  station: "levels",
  severity,
  code,
  message: `${code} here`,
  count: 1,
  level: null,
  part: null,
  places: null,
  ...more,
});

type Item = Shipment["items"][number];

export const shipmentItem = (id: number, name: string, more: Partial<Item> = {}): Item =>
  ({
    id,
    prop: 10 + id,
    prop_name: name,
    name,
    state: "shipped",
    error: "",
    seconds: 1.25,
    files: [{ path: `${name}.glb`, bytes: 2048, sha256: "ab12cd34ef56".repeat(4) }],
    levels: [
      { name: `${name}_LOD0`, triangles: 1200 },
      { name: `${name}_LOD1`, triangles: 300 },
    ],
    findings: [],
    waivers: [],
    picture: null,
    is_seen: false,
    ...more,
  }) as Item;

export const shipment = (items: Item[], more: Partial<Shipment> = {}): Shipment =>
  ({
    id: 4,
    created: "2026-03-02T10:15:00Z",
    destination: "plain",
    state: "done",
    delivery: null,
    before: null,
    goes_back_to: null,
    folder: "",
    is_packing: false,
    report: null,
    contact_sheet: null,
    items,
    waiting: 0,
    shipped: items.length,
    held: 0,
    failed: 0,
    cancelled: 0,
    triangles: 1500,
    bytes: 4096,
    seconds: 75,
    archive: "/api/shipments/4/archive",
    error: "",
    ...more,
  }) as Shipment;
