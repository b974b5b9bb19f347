// The server's events, with a connection that comes back by itself.
import type { Event } from "./types";

export function listen(on: (event: Event) => void): () => void {
  let socket: WebSocket | null = null;
  let timer: number | undefined;
  let closed = false;
  const open = () => {
    socket = new WebSocket(`${location.protocol === "https:" ? "wss" : "ws"}://${location.host}/api/events`);
    socket.onmessage = (message) => on(JSON.parse(message.data as string) as Event);
    socket.onclose = () => {
      if (!closed) timer = window.setTimeout(open, 1000);
    };
  };
  open();
  return () => {
    closed = true;
    window.clearTimeout(timer);
    socket?.close();
  };
}
