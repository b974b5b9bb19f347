// A name and a button that keeps something under it; without a name, under the one that is offered.
import { Button, TextInput } from "@mantine/core";
import { useState } from "react";

interface Props {
  label: string;
  offered: string;
  button: string;
  keep: (name: string) => void;
}

export function KeepAs({ label, offered, button, keep }: Props) {
  const [name, setName] = useState("");
  const done = () => {
    keep(name.trim() || offered);
    setName("");
  };
  return (
    <div className="row" style={{ marginTop: 6 }}>
      <TextInput style={{ flex: 1 }} aria-label={label} placeholder={offered} value={name} onChange={(e) => setName(e.currentTarget.value)} onKeyDown={(e) => { e.stopPropagation(); if (e.key === "Enter") done(); }} />
      <Button variant="default" onClick={done}>{button}</Button>
    </div>
  );
}
