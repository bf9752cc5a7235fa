import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { useConnection } from "./connection";
import { useProgress } from "./progress";
import type { JobView, PieceView } from "./client";
import { keys, takeInJob } from "./pieces";

interface PreviewNews {
  piece_id: string;
  stage: string;
  fraction: number;
}

/** Listen to the server's events and keep what the page knows up to date. */
export function useNews(): void {
  const client = useQueryClient();
  useEffect(() => {
    const source = new EventSource("/api/events");
    let lost = false;
    source.onopen = () => {
      useConnection.setState({ connected: true });
      if (lost) void client.invalidateQueries();
      lost = false;
    };
    source.onerror = () => {
      lost = true;
      useConnection.setState({ connected: false });
    };
    source.addEventListener("job", (event) => {
      takeInJob(client, JSON.parse(event.data as string) as JobView);
    });
    source.addEventListener("piece", (event) => {
      const { id, revision } = JSON.parse(event.data as string) as { id: string; revision: number };
      const known = client.getQueryData<PieceView>(keys.piece(id));
      if (known && known.revision !== revision) void client.invalidateQueries({ queryKey: keys.piece(id) });
      void client.invalidateQueries({ queryKey: keys.shelf });
    });
    source.addEventListener("preview", (event) => {
      const { piece_id, stage, fraction } = JSON.parse(event.data as string) as PreviewNews;
      useProgress.setState({ pieceId: piece_id, stage, fraction });
    });
    return () => source.close();
  }, [client]);
}
