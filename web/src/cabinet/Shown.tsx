// What a thing of the cabinet looks like: on the swatch ball, or on this piece where one asks for that.
import { useInViewport } from "@mantine/hooks";
import { type ReactNode, useState } from "react";

import type { Edit } from "../api/types";
import { Look } from "../controls/Look";
import { useStore } from "../state/store";
import { asSeen } from "../view/asSeen";

/** Pixels of a picture from top to bottom, and samples to each. */
const PICTURE = { height: 148, samples: 8 };

interface Props {
  /** Address of its picture on the ball. */
  ball: string;
  /** Its picture on this piece; asked for once it was seen. */
  children: ReactNode;
}

export function Shown({ ball, children }: Props) {
  const onPiece = useStore((s) => s.cabinetOnPiece);
  return onPiece ? <OnceSeen>{children}</OnceSeen> : <img src={ball} alt="" width={92} height={74} loading="lazy" />;
}

/** A piece takes a moment each, so only those are made that somebody looks at. */
function OnceSeen({ children }: { children: ReactNode }) {
  const { ref, inViewport } = useInViewport<HTMLDivElement>();
  const [seen, setSeen] = useState(inViewport);
  if (inViewport && !seen) setSeen(true);
  return (
    <div ref={ref} className="thing-piece">
      {seen ? children : null}
    </div>
  );
}

/** The piece as it would look after some edits, from where one looked when this was first seen. */
export function OnPiece({ edits, name }: { edits: Edit[]; name: string }) {
  const [still] = useState(() => asSeen(PICTURE.height, PICTURE.samples));
  return <Look edits={edits} still={still} alt={`The piece with ${name}`} />;
}
