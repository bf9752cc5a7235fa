import { listen } from "./news";
import { NewsDesk } from "./newsDesk";

/** The one stream of news of a browser; pages come in by ports. */
const desk = new NewsDesk(listen);

(globalThis as unknown as { onconnect: (event: MessageEvent) => void }).onconnect = ({ ports }) => {
  const port = ports[0];
  if (!port) return;
  port.onmessage = ({ data }: MessageEvent<unknown>) => {
    if (data === "leave") desk.leave(port);
  };
  desk.enter(port);
};
