// The server's events, with a connection that comes back by itself.
import type { Event } from "./types";

/** How long after it broke off the connection is tried again, in ms. */
const AGAIN = 300;

/** Listens for `page` until what is returned is called. `back` is told whenever the connection stands: whatever happened before was not heard. */
export function listen(page: string, on: (event: Event) => void, back: () => void): () => void {
  let socket: WebSocket | null = null;
  let timer: number | undefined;
  let closed = false;
  const open = () => {
    const host = `${location.protocol === "https:" ? "wss" : "ws"}://${location.host}`;
    socket = new WebSocket(`${host}/api/events?page=${encodeURIComponent(page)}`);
    socket.onopen = back;
    socket.onmessage = (message) => on(JSON.parse(message.data as string) as Event);
    socket.onclose = () => {
      if (!closed) timer = window.setTimeout(open, AGAIN);
    };
  };
  open();
  return () => {
    closed = true;
    window.clearTimeout(timer);
    socket?.close();
  };
}
