import { skipToken, useQuery } from "@tanstack/react-query";
import { useCallback } from "react";

export interface FileState<T> {
  /** Null while it loads, where it did not come, and where there is none. */
  file: T | null;
  isFailed: boolean;
  retry: () => void;
}

/** What is read from a stored file, whose address says what is in it. `read` stays the same function. */
export function useFile<T>(url: string | null, read: (data: ArrayBuffer) => T): FileState<T> {
  const { data, isError, refetch } = useQuery({
    queryKey: ["file", url],
    queryFn:
      url === null
        ? skipToken
        : async ({ signal }) => {
            const answer = await fetch(url, { signal });
            if (!answer.ok) throw new Error(answer.statusText);
            return read(await answer.arrayBuffer());
          },
    // What lies at an address never changes, and may be large.
    staleTime: Infinity,
    gcTime: 60_000,
    structuralSharing: false,
  });
  const retry = useCallback(() => void refetch(), [refetch]);
  return { file: data ?? null, isFailed: isError, retry };
}
