import { Toast } from "radix-ui";
import { createContext, type ReactNode, useCallback, useContext, useMemo, useState } from "react";

export interface Notice {
  title: string;
  lines?: string[];
  isProblem?: boolean;
  action?: { label: string; run: () => void };
}

const NoticeContext = createContext<((notice: Notice) => void) | null>(null);

/** Says something in passing; problems stay until they are closed. */
export function useNotify(): (notice: Notice) => void {
  const notify = useContext(NoticeContext);
  if (!notify) throw new Error("useNotify must be used within a ToastProvider");
  return notify;
}

export function ToastProvider({ children }: { children: ReactNode }) {
  const [notices, setNotices] = useState<(Notice & { id: number })[]>([]);
  const notify = useCallback((notice: Notice) => {
    setNotices((old) => [...old.slice(-3), { ...notice, id: performance.now() + Math.random() }]);
  }, []);
  const close = (id: number) => setNotices((old) => old.filter((notice) => notice.id !== id));
  const value = useMemo(() => notify, [notify]);
  return (
    <NoticeContext.Provider value={value}>
      <Toast.Provider swipeDirection="right">
        {children}
        {notices.map((notice) => (
          <Toast.Root
            key={notice.id}
            duration={notice.isProblem ? Infinity : 7000}
            onOpenChange={(open) => !open && close(notice.id)}
            className={`flex items-start gap-3 rounded border bg-sheet p-3 ${notice.isProblem ? "border-stop" : "border-rule-strong"}`}
          >
            <div className="min-w-0 grow">
              <Toast.Title className={`font-semibold ${notice.isProblem ? "text-stop" : ""}`}>
                {notice.title}
              </Toast.Title>
              {notice.lines?.map((line) => (
                <Toast.Description key={line} className="break-words text-quiet">
                  {line}
                </Toast.Description>
              ))}
            </div>
            {notice.action && (
              <Toast.Action
                altText={notice.action.label}
                onClick={notice.action.run}
                className="h-7 shrink-0 rounded border border-rule-control px-2 font-medium whitespace-nowrap hover:border-ink"
              >
                {notice.action.label}
              </Toast.Action>
            )}
            <Toast.Close aria-label="Close" className="size-7 text-quiet hover:text-ink">
              ✕
            </Toast.Close>
          </Toast.Root>
        ))}
        <Toast.Viewport className="fixed right-4 bottom-4 z-50 flex w-[min(440px,92vw)] flex-col gap-2" />
      </Toast.Provider>
    </NoticeContext.Provider>
  );
}
