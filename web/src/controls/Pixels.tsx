// A small picture from the server's pixels: RGBA8 at an address.
import { useEffect, useRef } from "react";

import { pixels } from "../api/pixels";

export function Pixels({
  address,
  size: [width, height],
  label,
}: {
  address: string;
  size: [number, number];
  label: string;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    let wanted = true;
    pixels(address)
      .then((bytes) => {
        const context = canvas.current?.getContext("2d");
        if (wanted && context && bytes.length === width * height * 4) {
          context.putImageData(new ImageData(new Uint8ClampedArray(bytes.buffer), width, height), 0, 0);
        }
      })
      .catch(() => undefined); // It was let go; the next evaluation brings it anew.
    return () => {
      wanted = false;
    };
  }, [address, width, height]);
  return (
    <canvas
      ref={canvas}
      width={width}
      height={height}
      role={label === "" ? undefined : "img"}
      aria-label={label === "" ? undefined : label}
      aria-hidden={label === "" || undefined}
      data-address={address}
    />
  );
}
