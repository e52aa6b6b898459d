import { getCoreRowModel, getSortedRowModel, useReactTable, flexRender } from "@tanstack/react-table";
import { render, screen } from "@testing-library/react";
import { expect, test } from "vitest";

import type { PropRow, Readiness } from "../../api/client";
import { ReadinessMark, SeverityCounts } from "../../parts/Severity";
import { propRow } from "../../testing/props";
import { COLUMNS, RowProgress } from "./columns";

const rowOf = ({ id = 1, name = "crate", ...more }: Partial<PropRow>) => propRow(id, name, more);

/** The board's cells as a plain table, sorted by a column. */
function Table({ rows, by, desc = false }: { rows: PropRow[]; by?: string; desc?: boolean }) {
  const table = useReactTable({
    data: rows,
    columns: COLUMNS,
    state: { sorting: by ? [{ id: by, desc }] : [] },
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
  });
  return (
    <table>
      <tbody>
        {table.getRowModel().rows.map((row) => (
          <tr key={row.id} aria-label={row.original.name}>
            {row.getVisibleCells().map((cell) => (
              <td key={cell.id} data-column={cell.column.id}>
                {flexRender(cell.column.columnDef.cell, cell.getContext())}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const cell = (column: string) => document.querySelector(`td[data-column=${column}]`)?.textContent;
const names = () => screen.getAllByRole("row").map((row) => row.getAttribute("aria-label"));

test("a built prop says what it has beside what it may have, with units", () => {
  render(
    <Table
      rows={[
        rowOf({
          triangles: 17514,
          triangle_budget: 20000,
          levels: 4,
          last_triangles: 1751,
          materials: 4,
          material_budget: 3,
          size: [0.51, 1.05, 0.5],
          source_bytes: 2048,
        }),
      ]}
    />,
  );
  expect(cell("name")).toContain("2.0 KiB");
  expect(cell("triangles")).toContain("17\u202f514");
  expect(cell("levels")).toBe("4 → 1\u202f751 tris");
  expect(cell("materials")).toBe("4 / 3");
  expect(document.querySelector("td[data-column=materials] .text-warning")?.textContent).toBe("4");
  expect(cell("size")).toBe("0.51 × 1.05 × 0.50 m");
});

test("without a budget nothing is over it, and nothing stands beside the figure", () => {
  render(<Table rows={[rowOf({ materials: 9, material_budget: null })]} />);
  expect(cell("materials")).toBe("9");
  expect(document.querySelector("td[data-column=materials] .text-warning")).toBeNull();
});

test("what is not known yet is left open, what never came is said", () => {
  const nothing = { levels: null, last_triangles: null, materials: null, size: null, format: null, error: "" };
  const { unmount } = render(<Table rows={[rowOf({ ...nothing, readiness: "working", picture: null })]} />);
  expect([cell("levels"), cell("materials"), cell("size"), cell("findings")]).toEqual(["–", "", "", "–"]);
  expect(document.querySelector("img")).toBeNull();
  unmount();
  render(<Table rows={[rowOf({ ...nothing, readiness: "failed", error: "sheet.glb: is not a GLB file" })]} />);
  expect(cell("levels")).toBe("none");
  expect(cell("findings")).toBe("sheet.glb: is not a GLB file");
  expect(screen.getByTitle("sheet.glb: is not a GLB file")).toBeTruthy();
});

test("readiness is sorted by how far a prop is from shipping, findings by the worst, size by the longest side", () => {
  const order: Readiness[] = ["failed", "cancelled", "held", "working", "warning", "ready"];
  const rows = [3, 0, 5, 1, 4, 2].map((i) => rowOf({ id: i, name: order[i]!, readiness: order[i]! }));
  const { unmount } = render(<Table rows={rows} by="readiness" />);
  expect(names()).toEqual(order);
  unmount();
  const counts = [
    { name: "many infos", stops: 0, warnings: 0, infos: 40 },
    { name: "a stop", stops: 1, warnings: 0, infos: 0 },
    { name: "two warnings", stops: 0, warnings: 2, infos: 0 },
  ];
  const found = render(<Table rows={counts.map((more, id) => rowOf({ id, ...more }))} by="findings" desc />);
  expect(names()).toEqual(["a stop", "two warnings", "many infos"]);
  found.unmount();
  const sizes = [
    { name: "mast", size: [0.1, 9, 0.1] },
    { name: "nothing", size: null },
    { name: "plank", size: [3, 0.1, 0.2] },
  ];
  render(<Table rows={sizes.map((more, id) => rowOf({ id, ...more }))} by="size" />);
  expect(names()).toEqual(["nothing", "plank", "mast"]);
});

test.each([
  ["ready", "ready"],
  ["warning", "ready with warnings"],
  ["held", "held"],
  ["failed", "failed"],
  ["cancelled", "cancelled"],
  ["working", "working"],
] as const)("readiness %s is a shape and a word: %s", (value, word) => {
  const { container } = render(<ReadinessMark value={value} />);
  expect(container.textContent).toBe(word);
  expect(container.querySelectorAll("svg[aria-hidden]")).toHaveLength(1);
});

test("severities are counted by name, those that there are", () => {
  const { container, rerender } = render(<SeverityCounts stop={0} warning={2} info={1} />);
  expect(container.textContent).toBe("2warning1info");
  expect(screen.getByTitle("2 warning")).toBeTruthy();
  rerender(<SeverityCounts stop={0} warning={0} info={0} />);
  expect(container.textContent).toBe("none");
});

test("a prop that is being built says what is done, and that it waits before anything is", () => {
  const { rerender } = render(<RowProgress fraction={0.4} doing="reducing" />);
  expect(screen.getByRole("progressbar", { name: "reducing" }).getAttribute("aria-valuenow")).toBe("40");
  rerender(<RowProgress fraction={0} doing="" />);
  expect(screen.getByRole("progressbar", { name: "waiting" })).toBeTruthy();
});
