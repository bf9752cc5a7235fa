import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import {
  answered, api, type CarvingView, type JobView, type KeptPost, type RackBit, type ReachFix, type ReachView, type RouterBit, type RouterPost, type RouterStatus,
  type RouterWord,
} from "./client";
import { takeInJob } from "./pieces";
import { PLAN_DRAGGING_PX } from "./preview";

const KEY = ["bits"] as const;
const POSTS = ["posts"] as const;
const ROUTER = ["router"] as const;
const BUSY = ["running", "held", "waiting"];
const LOOK_AGAIN_MS = 400;

/** The bits of the rack, and what can be done to them. */
export function useRack() {
  const client = useQueryClient();
  const onSuccess = () => client.invalidateQueries({ queryKey: KEY });
  const bits = useQuery({ queryKey: KEY, queryFn: () => answered<RackBit[]>(api.GET("/api/bits")) });
  const add = useMutation({ mutationFn: (bit: RouterBit) => answered<RackBit>(api.POST("/api/bits", { body: bit })), onSuccess });
  const change = useMutation({
    mutationFn: ({ id, bit }: RackBit) => answered<RackBit>(api.PUT("/api/bits/{bit_id}", { params: { path: { bit_id: id } }, body: bit })),
    onSuccess,
  });
  const drop = useMutation({
    mutationFn: (id: number) => api.DELETE("/api/bits/{bit_id}", { params: { path: { bit_id: id } } }),
    onSuccess,
  });
  return { bits: bits.data ?? [], add, change, drop };
}

/** The ways in which machines want their programs, and what can be done to them. */
export function usePosts() {
  const client = useQueryClient();
  const onSuccess = () => client.invalidateQueries({ queryKey: POSTS });
  const posts = useQuery({ queryKey: POSTS, queryFn: () => answered<KeptPost[]>(api.GET("/api/posts")) });
  const add = useMutation({ mutationFn: (post: RouterPost) => answered<KeptPost>(api.POST("/api/posts", { body: post })), onSuccess });
  const change = useMutation({
    mutationFn: ({ id, post }: KeptPost) => answered<KeptPost>(api.PUT("/api/posts/{post_id}", { params: { path: { post_id: id } }, body: post })),
    onSuccess,
  });
  const drop = useMutation({
    mutationFn: (id: number) => api.DELETE("/api/posts/{post_id}", { params: { path: { post_id: id } } }),
    onSuccess,
  });
  return { posts: posts.data ?? [], add, change, drop };
}

/** Where the router stands, looked at again and again while it is busy. */
export function useRouter() {
  const standing = useQuery({
    queryKey: ROUTER,
    queryFn: () => answered<RouterStatus>(api.GET("/api/router")),
    refetchInterval: ({ state }) => (state.data && BUSY.includes(state.data.state) ? LOOK_AGAIN_MS : false),
  });
  return standing.data;
}

/** Whether a router is at work. */
export const isBusy = (standing: RouterStatus | undefined) => standing !== undefined && BUSY.includes(standing.state);

/** Send a program to the router, and tell it to hold, go on or stop. */
export function useSending() {
  const client = useQueryClient();
  const onSuccess = (standing: RouterStatus) => client.setQueryData(ROUTER, standing);
  const send = useMutation({
    mutationFn: ({ jobId, number, speed }: { jobId: string; number: number; speed: number }) =>
      answered<RouterStatus>(api.POST("/api/jobs/{job_id}/programs/{number}/send", { params: { path: { job_id: jobId, number } }, body: { speed } })),
    onSuccess,
  });
  const tell = useMutation({
    mutationFn: (word: RouterWord) => answered<RouterStatus>(api.POST("/api/router/{word}", { params: { path: { word } } })),
    onSuccess,
  });
  return { send, tell };
}

/** What would let the bits of a piece reach more, each tried on its preview. */
export function useReachFixes(pieceId: string, revision: number, enabled: boolean) {
  return useQuery({
    queryKey: ["reach-fixes", pieceId, revision],
    queryFn: ({ signal }) =>
      answered<ReachFix[]>(
        api.POST("/api/pieces/{piece_id}/reach/fixes", { params: { path: { piece_id: pieceId } }, body: { change: {}, longest_px: PLAN_DRAGGING_PX }, signal }),
      ),
    enabled,
    staleTime: Infinity,
    retry: false,
  });
}

/** Plan the carving of a piece, and prove it, once every change under way is kept. */
export function useCarve(pieceId: string) {
  const client = useQueryClient();
  return useMutation({
    scope: { id: `edit-${pieceId}` },
    mutationFn: () => answered<JobView>(api.POST("/api/pieces/{piece_id}/carve", { params: { path: { piece_id: pieceId } } })),
    onSuccess: (job) => takeInJob(client, job),
  });
}

/** The stock, the zero point and the ways of a carving job. */
export function useCarving(jobId: string | undefined) {
  return useQuery({
    queryKey: ["carving", jobId],
    queryFn: ({ signal }) => answered<CarvingView>(api.GET("/api/jobs/{job_id}/carving", { params: { path: { job_id: jobId ?? "" } }, signal })),
    enabled: jobId !== undefined,
    staleTime: Infinity,
    retry: false,
  });
}

/** What the bits of a piece cannot reach, on its preview. */
export function useReach(pieceId: string, revision: number, enabled: boolean) {
  return useQuery({
    queryKey: ["reach", pieceId, revision],
    queryFn: ({ signal }) =>
      answered<ReachView>(
        api.POST("/api/pieces/{piece_id}/reach", { params: { path: { piece_id: pieceId } }, body: { change: {}, longest_px: PLAN_DRAGGING_PX }, signal }),
      ),
    enabled,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: false,
  });
}
