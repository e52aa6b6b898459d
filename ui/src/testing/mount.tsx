import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter, Route, Routes, useLocation } from "react-router";

import { ToastProvider } from "../parts/Toasts";

/** Says where the page has gone. */
function Address() {
  const { pathname, search } = useLocation();
  return <output aria-label="address">{pathname + search}</output>;
}

/** A view on a page of its own, at an address that `route` matches. */
export function mount(view: ReactNode, { at = "/", route = "*" } = {}) {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  render(
    <QueryClientProvider client={queries}>
      <ToastProvider>
        <MemoryRouter initialEntries={[at]}>
          <Address />
          <Routes>
            <Route path={route} element={view} />
            <Route path="*" element={null} />
          </Routes>
        </MemoryRouter>
      </ToastProvider>
    </QueryClientProvider>,
  );
  return queries;
}
