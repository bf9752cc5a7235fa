import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { JobView, PieceView } from "./client";
import { useConnection } from "./connection";
import { listenTogether } from "./news";
import { keys, takeInJob } from "./pieces";
import { useProgress } from "./progress";

interface PreviewNews {
  piece_id: string;
  stage: string;
  fraction: number;
}

/** Listen to the server's events and keep what the page knows up to date. */
export function useNews(): void {
  const client = useQueryClient();
  useEffect(() => {
    let lost = false;
    return listenTogether((told) => {
      if ("event" in told) {
        takeInNews(client, told.event, JSON.parse(told.data));
        return;
      }
      useConnection.setState({ connected: told.open });
      // What happened meanwhile was not heard.
      if (told.open && lost) void client.invalidateQueries();
      lost = !told.open;
    });
  }, [client]);
}

function takeInNews(client: QueryClient, event: string, data: unknown): void {
  if (event === "job") takeInJob(client, data as JobView);
  if (event === "piece") {
    const { id, revision } = data as { id: string; revision: number };
    const known = client.getQueryData<PieceView>(keys.piece(id));
    if (known && known.revision !== revision) void client.invalidateQueries({ queryKey: keys.piece(id) });
    void client.invalidateQueries({ queryKey: keys.shelf });
  }
  if (event === "preview") {
    const { piece_id, stage, fraction } = data as PreviewNews;
    useProgress.setState({ pieceId: piece_id, stage, fraction });
  }
}
