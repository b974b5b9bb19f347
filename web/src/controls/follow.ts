// A pointer that is followed wherever it goes while it is held down.

/** Follows a pointer from where it went down until it is let go. */
export function follow(
  e: { clientX: number; clientY: number },
  move: (e: PointerEvent) => void,
  end: (moved: boolean) => void = () => undefined,
): void {
  const [x, y] = [e.clientX, e.clientY];
  let moved = false;
  const going = (to: PointerEvent) => {
    // A hand that clicks isn't quite still.
    moved ||= Math.hypot(to.clientX - x, to.clientY - y) > 3;
    if (moved) move(to);
  };
  const gone = () => {
    window.removeEventListener("pointermove", going);
    window.removeEventListener("pointerup", gone);
    window.removeEventListener("pointercancel", gone);
    end(moved);
  };
  window.addEventListener("pointermove", going);
  window.addEventListener("pointerup", gone);
  window.addEventListener("pointercancel", gone);
}
