import type { ReactNode } from "react";

/** A calm page in place of content: nothing there yet, loading, or what went wrong. */
export function EmptyState({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="grid h-full place-items-center p-8">
      <div className="max-w-md text-center">
        <h2 className="mb-1 text-lg font-semibold">{title}</h2>
        <div className="text-quiet">{children}</div>
      </div>
    </div>
  );
}

export function Loading({ what }: { what: string }) {
  return (
    <div role="status" className="grid h-full place-items-center text-quiet">
      loading {what} …
    </div>
  );
}
