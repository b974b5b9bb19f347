// A name and a button that keeps something under it; without a name, under the next free one. A name that is taken keeps that one anew, and the button says so.
import { Button, TextInput } from "@mantine/core";
import { useState } from "react";

interface Props {
  label: string;
  /** What is kept: it is offered as this and a number that is free. */
  kind: string;
  /** Names that are taken. */
  taken: string[];
  button: string;
  /** Whether what has a taken name is replaced; otherwise there are then two of that name. */
  anew?: boolean;
  keep: (name: string) => void;
}

/** `kind` with the lowest number that makes a name of its own. */
export function freeName(kind: string, taken: string[]): string {
  for (let n = 1; ; n += 1) {
    const name = `${kind} ${n}`;
    if (!taken.includes(name)) return name;
  }
}

export function KeepAs({ label, kind, taken, button, anew = true, keep }: Props) {
  const [name, setName] = useState("");
  const offered = freeName(kind, taken);
  const again = anew && taken.includes(name.trim());
  const done = () => {
    keep(name.trim() || offered);
    setName("");
  };
  return (
    <div className="row" style={{ marginTop: 6 }}>
      <TextInput
        style={{ flex: 1 }}
        aria-label={label}
        placeholder={offered}
        value={name}
        onChange={(e) => setName(e.currentTarget.value)}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Enter") done();
        }}
      />
      <Button variant="default" onClick={done}>
        {again ? "Keep anew" : button}
      </Button>
    </div>
  );
}
