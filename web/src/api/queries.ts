import {
  keepPreviousData,
  QueryClient,
  type QueryFilters,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { ask, client, type Person, type Schemas, type Trial } from "./client";
import { FOLLOWING } from "./reads";
import type { operations } from "./schema";

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: { networkMode: "always", staleTime: 15_000, retry: false, refetchOnWindowFocus: true },
    mutations: { networkMode: "always" },
  },
});

/**
 * Ask again for what the server has just changed. An answer already on its way was given before; as long as it is a first answer,
 * `invalidateQueries` alone would wait for it and take it for the new one.
 */
export async function askAnew(cache: QueryClient, asked: QueryFilters) {
  await cache.cancelQueries(asked);
  await cache.invalidateQueries(asked);
}

export const useSession = () =>
  useQuery({ queryKey: ["session"], queryFn: () => ask(client.GET("/api/session")), staleTime: 60_000 });

export const useCatalogue = () =>
  useQuery({
    queryKey: ["catalogue"],
    queryFn: () => ask(client.GET("/api/catalogue")),
    staleTime: Number.POSITIVE_INFINITY,
  });

/** Regions to choose from, and what of them may be changed. */
export const useRegions = () =>
  useQuery({
    queryKey: ["regions"],
    queryFn: () => ask(client.GET("/api/regions")),
    staleTime: Number.POSITIVE_INFINITY,
  });

/** How backups stand; looked at again while one is being made. */
export const useBackups = (workspaceId: string, watch: boolean, enabled = true) =>
  useQuery({
    queryKey: ["backups", workspaceId],
    queryFn: () =>
      ask(client.GET("/api/workspaces/{workspace_id}/backups", { params: { path: { workspace_id: workspaceId } } })),
    enabled,
    refetchInterval: (query) => (watch && query.state.data?.under_way ? 1_500 : false),
  });

export const useCalculators = (workspaceId: string) =>
  useQuery({
    queryKey: ["bench", workspaceId],
    queryFn: () =>
      ask(client.GET("/api/workspaces/{workspace_id}/bench", { params: { path: { workspace_id: workspaceId } } })),
  });

export type TrialsAsked = NonNullable<operations["trials"]["parameters"]["query"]>;

/** A page of trials; without anything asked for the one that is taken along for the field. */
export const useTrials = (workspaceId: string, asked: TrialsAsked = {}) =>
  useQuery({
    queryKey: ["trials", workspaceId, ...(Object.keys(asked).length ? [asked] : [])],
    queryFn: () => askTrials(workspaceId, asked),
    placeholderData: keepPreviousData,
  });

export const askTrials = (workspaceId: string, asked: TrialsAsked) =>
  ask(
    client.GET("/api/workspaces/{workspace_id}/trials", {
      params: { path: { workspace_id: workspaceId }, query: asked },
    }),
  );

export const useFields = (workspaceId: string) =>
  useQuery({
    queryKey: ["fields", workspaceId],
    queryFn: () =>
      ask(client.GET("/api/workspaces/{workspace_id}/fields", { params: { path: { workspace_id: workspaceId } } })),
  });

export const useMachines = (workspaceId: string) =>
  useQuery({
    queryKey: ["machines", workspaceId],
    queryFn: () =>
      ask(client.GET("/api/workspaces/{workspace_id}/machines", { params: { path: { workspace_id: workspaceId } } })),
  });

/** The most urgent of what is due; without a number as many as are taken along for the field. */
export const useToday = (workspaceId: string, limit?: number) =>
  useQuery({
    queryKey: ["today", workspaceId, ...(limit ? [limit] : [])],
    queryFn: () =>
      ask(
        client.GET("/api/workspaces/{workspace_id}/today", {
          params: { path: { workspace_id: workspaceId }, query: limit ? { limit } : {} },
        }),
      ),
    placeholderData: keepPreviousData,
  });

const path = (trialId: string) => ({ params: { path: { trial_id: trialId } } });

export const useTrial = (trialId: string) =>
  useQuery({ queryKey: ["trial", trialId], queryFn: () => ask(client.GET("/api/trials/{trial_id}", path(trialId))) });

export const useStand = (trialId: string) =>
  useQuery({
    queryKey: ["stand", trialId],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/stand", path(trialId))),
  });

/** The single counts of one strip at a visit, for trials with so many that they do not come with the page. */
export const useStripCounts = (trialId: string, strip: string, visit: number | null, wanted: boolean) =>
  useQuery({
    queryKey: ["stand", trialId, "counts", strip, visit],
    enabled: wanted && strip !== "",
    queryFn: () =>
      ask(
        client.GET("/api/trials/{trial_id}/stand-counts", {
          params: { path: { trial_id: trialId }, query: { strip, visit: visit ?? undefined } },
        }),
      ),
  });

export const useScouting = (trialId: string) =>
  useQuery({
    queryKey: ["scouting", trialId],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/scouting", path(trialId))),
  });

export const useReadings = (trialId: string) =>
  useQuery({
    queryKey: ["readings", trialId],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/readings", path(trialId))),
  });

export const useStandAnalysis = (trialId: string, shortOfFeed = false) =>
  useQuery({
    queryKey: ["stand-analysis", trialId, shortOfFeed],
    queryFn: () =>
      ask(
        client.GET("/api/trials/{trial_id}/stand-analysis", {
          params: { path: { trial_id: trialId }, query: { short_of_feed: shortOfFeed } },
        }),
      ),
  });

export const useEstimates = (trialId: string) =>
  useQuery({
    queryKey: ["estimates", trialId],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/estimates", path(trialId))),
  });

export const useLearning = (trialId: string) =>
  useQuery({
    queryKey: ["estimates", trialId, "learning"],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/estimates/learning", path(trialId))),
  });

export const usePicking = (trialId: string) =>
  useQuery({
    queryKey: ["estimates", trialId, "picking"],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/estimates/picking", path(trialId))),
  });

export const useSchedule = (trialId: string) =>
  useQuery({
    queryKey: ["schedule", trialId],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/schedule", path(trialId))),
  });

export const useStation = (workspaceId: string) =>
  useQuery({
    queryKey: ["station", workspaceId],
    queryFn: () =>
      ask(client.GET("/api/workspaces/{workspace_id}/station", { params: { path: { workspace_id: workspaceId } } })),
  });

export const useSeed = (trialId: string) =>
  useQuery({
    queryKey: ["seed", trialId],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/seed", path(trialId))),
  });

export const usePlanting = (trialId: string) =>
  useQuery({
    queryKey: ["planting", trialId],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/planting", path(trialId))),
  });

export const useCalibrations = (trialId: string) =>
  useQuery({
    queryKey: ["calibrations", trialId],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/calibrations", path(trialId))),
  });

export const useSeedLots = (workspaceId: string) =>
  useQuery({
    queryKey: ["seed-lots", workspaceId],
    queryFn: () =>
      ask(client.GET("/api/workspaces/{workspace_id}/seed-lots", { params: { path: { workspace_id: workspaceId } } })),
  });

export const useHarvest = (trialId: string) =>
  useQuery({
    queryKey: ["harvest", trialId],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/harvest", path(trialId))),
  });

/** Asks again while the worker is at a log. */
export const useYieldLogs = (trialId: string) =>
  useQuery({
    queryKey: ["yield-logs", trialId],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/yield-logs", path(trialId))),
    refetchInterval: (query) => (query.state.data?.logs.some((log) => log.job_id) ? 600 : false),
  });

export const useVerdict = (trialId: string) =>
  useQuery({
    queryKey: ["verdict", trialId],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/verdict", path(trialId))),
  });

export const useResponseCurves = (trialId: string) =>
  useQuery({
    queryKey: ["verdict", trialId, "curves"],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/response-curves", path(trialId))),
  });

export const usePriceLists = (workspaceId: string) =>
  useQuery({
    queryKey: ["price-lists", workspaceId],
    queryFn: () =>
      ask(
        client.GET("/api/workspaces/{workspace_id}/price-lists", { params: { path: { workspace_id: workspaceId } } }),
      ),
  });

export type LedgerAsked = NonNullable<operations["ledger"]["parameters"]["query"]>;

export const askLedger = (workspaceId: string, asked: LedgerAsked) =>
  ask(
    client.GET("/api/workspaces/{workspace_id}/ledger", {
      params: { path: { workspace_id: workspaceId }, query: asked },
    }),
  );

export const useLedger = (workspaceId: string, asked: LedgerAsked) =>
  useQuery({
    queryKey: ["ledger", workspaceId, asked],
    queryFn: () => askLedger(workspaceId, asked),
    placeholderData: keepPreviousData,
  });

export const usePortfolio = (workspaceId: string) =>
  useQuery({
    queryKey: ["portfolio", workspaceId],
    queryFn: () =>
      ask(client.GET("/api/workspaces/{workspace_id}/portfolio", { params: { path: { workspace_id: workspaceId } } })),
  });

export const useShares = (trialId: string) =>
  useQuery({
    queryKey: ["shares", trialId],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/shares", path(trialId))),
  });

export const useMoney = (trialId: string) =>
  useQuery({
    queryKey: ["verdict", trialId, "money"],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/money", path(trialId))),
  });

export const useExplanation = (trialId: string) =>
  useQuery({
    queryKey: ["verdict", trialId, "explanation"],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/explanation", path(trialId))),
  });

export const useCovariate = (trialId: string) =>
  useQuery({
    queryKey: ["covariate", trialId],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/covariate", path(trialId))),
  });

export const useSeries = (trialId: string, response: "yield" | "net_return") =>
  useQuery({
    queryKey: ["verdict", trialId, "series", response],
    queryFn: () =>
      ask(
        client.GET("/api/trials/{trial_id}/series", {
          params: { path: { trial_id: trialId }, query: { response } },
        }),
      ),
  });

export const useFieldEvents = (trialId: string) =>
  useQuery({
    queryKey: ["events", trialId],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/field-events", path(trialId))),
  });

/** After any write to a trial: keep the fresh trial, let everything computed from it be asked for again. */
export function useTrialChanged(trialId: string) {
  const cache = useQueryClient();
  return (fresh?: Trial) => {
    if (fresh) cache.setQueryData(["trial", trialId], fresh);
    else void askAnew(cache, { queryKey: ["trial", trialId] });
    for (const { key, of } of FOLLOWING) {
      if (key !== "trial") void askAnew(cache, { queryKey: of === "trial" ? [key, trialId] : [key] });
    }
  };
}

const SAME_FOR_ALL = new Set(["session", "catalogue"]);

export function usePreferences() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["PreferencesIn"]) => ask(client.PATCH("/api/session", { body })),
    onMutate: async (body) => {
      // an answer already on its way would bring the old preference back
      await cache.cancelQueries({ queryKey: ["session"] });
      cache.setQueryData<Schemas["SessionOut"]>(["session"], (now) =>
        now?.person ? { ...now, person: { ...now.person, ...(body as Partial<Person>) } } : now,
      );
    },
    onError: () => cache.invalidateQueries({ queryKey: ["session"] }),
    onSuccess: async (session) => {
      cache.setQueryData(["session"], session);
      await askAnew(cache, { predicate: ({ queryKey }) => !SAME_FOR_ALL.has(String(queryKey[0])) });
    },
  });
}
