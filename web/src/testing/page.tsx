import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { configure } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router";
import { create } from "zustand";
import { PartSchemasProvider } from "../state/partSchemas";
import { PreviewsProvider, type Shown } from "../state/previews";
import { PARTS } from "./parts";

// What is waited for comes later on a busy machine.
configure({ asyncUtilTimeout: 10_000 });

/** What the bench shows round the part that is tested: set it by `useShowing.setState`. */
export const useShowing = create<Partial<Shown>>()(() => ({}));

/** What the application puts round every part of a page, on the bench of a kind of piece. */
export function onPage(client = freshClient(), kind = "panel") {
  return function Page({ children }: { children: ReactNode }) {
    return (
      <QueryClientProvider client={client}>
        <MemoryRouter>
          <PartSchemasProvider parts={PARTS} kind={kind}>
            <PreviewsProvider shown={useShowing()}>{children}</PreviewsProvider>
          </PartSchemasProvider>
        </MemoryRouter>
      </QueryClientProvider>
    );
  };
}

export function freshClient(): QueryClient {
  return new QueryClient({ defaultOptions: { queries: { retry: false }, mutations: { retry: false } } });
}
