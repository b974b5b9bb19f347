// A button that brings files in. It forgets them at once, so that the same file, or another one, can be brought in again.
import { FileButton } from "@mantine/core";
import { type ReactNode, useRef } from "react";

interface Props {
  /** What a screen reader says for the field. */
  label: string;
  accept: string;
  multiple?: boolean;
  take: (files: File[]) => void;
  children: (props: { onClick: () => void }) => ReactNode;
}

export function BringFiles({ label, accept, multiple = false, take, children }: Props) {
  const reset = useRef<() => void>(null);
  const taken = (given: File | File[] | null) => {
    const files = [given ?? []].flat();
    reset.current?.();
    if (files.length > 0) take(files);
  };
  return (
    <FileButton
      multiple={multiple}
      accept={accept}
      resetRef={reset}
      onChange={taken}
      inputProps={{ "aria-label": label }}
    >
      {children}
    </FileButton>
  );
}
