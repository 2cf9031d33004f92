import { infiniteQueryOptions } from "@tanstack/react-query";
import { api, ask, type Schemas } from "../../api/client";

export type Which = Schemas["WhichSlips"];

/** The slip book a page at a time; the slip that was linked to comes with the first one, wherever it stands. */
export const slipsQuery = (which: Which, chosen: string | undefined) =>
  infiniteQueryOptions({
    queryKey: ["slips", which, chosen ?? ""],
    queryFn: ({ pageParam }) =>
      ask(
        api.GET("/api/slips", {
          params: {
            query: { which, after: pageParam, ...(pageParam === 0 && chosen ? { chosen } : {}) },
          },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const shown = pages.reduce((n, page) => n + page.slips.length, 0);
      return last.slips.length > 0 && shown < last.of_these ? shown : undefined;
    },
    staleTime: 0,
  });
