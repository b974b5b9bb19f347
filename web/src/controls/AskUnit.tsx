// Asks how long one unit of a mesh file is, since most formats don't say.
import { Button, Modal, Select } from "@mantine/core";
import { useState } from "react";

const UNITS = [
  ["mm", "millimetres"],
  ["cm", "centimetres"],
  ["m", "metres"],
  ["in", "inches"],
] as const;

export function AskUnit({
  file,
  verb,
  close,
  start,
}: {
  file: File;
  verb: string;
  close: () => void;
  start: (unit: string) => void;
}) {
  const [unit, setUnit] = useState(/\.(glb|gltf)$/i.test(file.name) ? "m" : "mm");
  return (
    <Modal opened onClose={close} title={`How large is ${file.name}?`} size="sm">
      <p>Patterns and readings are in millimetres, so Dust Coat has to know what one unit of the file is.</p>
      <Select
        mt="md"
        label="One unit of the file is one of these"
        data={UNITS.map(([value, label]) => ({ value, label }))}
        value={unit}
        onChange={(v) => setUnit(v ?? unit)}
      />
      <Button mt="lg" data-autofocus onClick={() => start(unit)}>
        {verb}
      </Button>
    </Modal>
  );
}
