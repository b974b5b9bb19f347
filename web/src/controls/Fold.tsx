// A heading that its settings fold away under. What is unfolded stays so for all steps.
import { IconChevronDown, IconChevronRight } from "@tabler/icons-react";
import type { ReactNode } from "react";

import { useStore } from "../state/store";

export function Fold({ title, note, children }: { title: string; note: string; children: ReactNode }) {
  const open = useStore((s) => s.unfolded.includes(title));
  const turn = () =>
    useStore.setState((s) => ({ unfolded: open ? s.unfolded.filter((t) => t !== title) : [...s.unfolded, title] }));
  return (
    <div className="block fold" data-fold={title}>
      <button className="fold-head" aria-expanded={open} onClick={turn}>
        {open ? <IconChevronDown size={14} /> : <IconChevronRight size={14} />}
        <span>{title}</span>
        <small className="soft">{note}</small>
      </button>
      {open && children}
    </div>
  );
}
