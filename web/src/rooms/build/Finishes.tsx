// Ready finishes, each on the swatch ball. Taking one lays it over the selected layer; it replaces nothing.
import { Button, Group, Modal, TextInput } from "@mantine/core";
import { useState } from "react";

import { PICTURE_FILES } from "../../api/bundle";
import type { Entry } from "../../api/types";
import { BringFiles } from "../../controls/BringFiles";
import { useDropped } from "../../controls/useDropped";
import { useStore } from "../../state/store";
import { layOver } from "./lay";
import { Pictured } from "./Pictured";

export function Finishes({ close }: { close: () => void }) {
  const catalog = useStore((s) => s.catalog);
  const layer = useStore((s) => s.layer);
  const [text, setText] = useState("");
  const words = text.trim().toLowerCase();
  const matching = catalog.filter((e) => e.family === "finish" && `${e.label} ${e.help}`.toLowerCase().includes(words));
  // What is called so comes before what is only told of in these words.
  const called = matching.filter((e) => e.label.toLowerCase().includes(words));
  const found = [...called, ...matching.filter((e) => !called.includes(e))];
  const [files, setFiles] = useState<File[] | null>(null);
  const { over, takes } = useDropped((all) => all.length > 0 && setFiles(all.map((one) => one.file)));
  const take = (entry: Entry | undefined) => {
    if (!entry?.layer) return;
    close();
    void layOver(entry.layer, layer, entry.dials);
  };
  if (files) return <Pictured files={files} close={close} />;
  return (
    <Modal opened onClose={close} title="Lay a finish over the selected layer" size={850} yOffset={60} {...takes}>
      <Group mb="md" gap={10} wrap="nowrap">
        <TextInput
          data-autofocus
          style={{ flex: 1 }}
          placeholder="Search: steel, paint, cloth …"
          aria-label="Search finishes"
          value={text}
          onChange={(e) => setText(e.currentTarget.value)}
          onKeyDown={(e) => {
            e.stopPropagation();
            if (e.key === "Enter") take(found[0]);
          }}
        />
        <BringFiles label="Pictures for a finish" accept={PICTURE_FILES} multiple take={setFiles}>
          {(props) => (
            <Button variant={over ? "filled" : "default"} {...props}>
              {over ? "Drop them" : "From pictures…"}
            </Button>
          )}
        </BringFiles>
      </Group>
      <div className="finishes">
        {found.map((e) => (
          <button key={e.kind} className="finish-card" title={e.help} data-finish={e.kind} onClick={() => take(e)}>
            <img src={`/api/finishes/${e.kind}/picture`} alt="" width={184} height={148} loading="lazy" />
            <b>{e.label}</b>
            <small>{e.help}</small>
          </button>
        ))}
      </div>
      {found.length === 0 && (
        <p className="soft">No finish is called that. Finishes can be found by their name or what they are.</p>
      )}
    </Modal>
  );
}
