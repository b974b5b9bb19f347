// Pictures come onto the board: dropped, pasted or picked, many at once.
import { api } from "../../api/client";
import type { BoardItem } from "../../api/types";
import { commit, say } from "../../state/actions";
import { busy, useStore } from "../../state/store";
import type { Point } from "./geometry";

/** Width of a picture as it comes, in points; its place is in rows of so many. */
const WIDTH = 280;
const GAP = 40;
const IN_ROW = 4;
/** How many are put on the board at once: what is there is seen, and is one step of undo. */
const AT_ONCE = 8;

const isPicture = (file: File) =>
  file.type.startsWith("image/") || /\.(png|jpe?g|webp|tiff?|exr|hdr)$/i.test(file.name);

/** Brings pictures in around a place; `told` hears how many are still to come. Those that can't be read are said, and the others come. */
export async function bringPictures(files: File[], around: Point, told: (left: number) => void): Promise<void> {
  const id = useStore.getState().project?.id;
  const pictures = files.filter(isPicture);
  if (pictures.length < files.length) say("Only pictures go on the board; the other files were left out.");
  if (id === undefined || pictures.length === 0) return;
  const done = busy();
  let waiting: BoardItem[] = [];
  const put = async () => {
    const items = waiting;
    waiting = [];
    if (items.length > 0 && useStore.getState().project?.id === id) await commit({ edit: "put_on_board", items });
  };
  let [x, y, high] = [around[0] - ((Math.min(IN_ROW, pictures.length) - 1) * (WIDTH + GAP)) / 2, around[1], 0];
  const left = x;
  try {
    for (const [i, file] of pictures.entries()) {
      told(pictures.length - i);
      try {
        const { hash, file: name, size } = await api.setAside(file);
        const height = (WIDTH * size[1]) / size[0];
        const lies = { at: [x, y + height / 2] as Point, width: WIDTH };
        waiting.push({ id: "", kind: "picture", lies, hash, file: name, size });
        x += WIDTH + GAP;
        high = Math.max(high, height);
        if ((i + 1) % IN_ROW === 0) [x, y, high] = [left, y + high + 80, 0];
      } catch (error) {
        say(error);
      }
      if (waiting.length >= AT_ONCE) await put();
    }
    await put();
  } finally {
    told(0);
    done();
  }
}
