import type { ReactNode } from "react";
import { ErrorBoundary, type FallbackProps } from "react-error-boundary";

import { Button } from "./Button";

function Failed({ what, resetErrorBoundary }: FallbackProps & { what: string }) {
  return (
    <div role="alert" className="grid h-full place-items-center p-4 text-center">
      <div>
        <p className="mb-2">{what} could not be shown: something went wrong. Nothing that was decided is lost.</p>
        <Button onClick={resetErrorBoundary}>Try again</Button>
      </div>
    </div>
  );
}

interface GuardedProps {
  /** What is said to have failed, as "The view". */
  what: string;
  /** A change of these tries again by itself. */
  on?: unknown[];
  children: ReactNode;
}

/** Keeps a failure of one region in that region, with a word and a retry in its place. */
export function Guarded({ what, on, children }: GuardedProps) {
  return (
    <ErrorBoundary resetKeys={on} fallbackRender={(props) => <Failed {...props} what={what} />}>
      {children}
    </ErrorBoundary>
  );
}
