// Masks that come packed in a picture: each channel that says something becomes a layer with that mask, in one step.
import { Button, Modal, Switch, TextInput } from "@mantine/core";
import { useState } from "react";

import { api } from "../../api/client";
import type { PictureUse, ToldChannel } from "../../api/types";
import { ColorPatch } from "../../controls/ColorField";
import { commit, say } from "../../state/actions";
import { percent } from "../../state/document";
import { busy, useStore } from "../../state/store";

const LABELS = { grey: "Grey", red: "Red", green: "Green", blue: "Blue", alpha: "Alpha" };

export function Packed({ picture }: { picture: PictureUse }) {
  const project = useStore((s) => s.project?.id ?? 0);
  const [told, setTold] = useState<ToldChannel[] | null>(null);
  const [hard, setHard] = useState(false);
  const open = async () => {
    const done = busy();
    try {
      const all = await api.toldChannels(project, picture.hash);
      // What says nothing is left out until somebody names it.
      setTold(all.map((c) => (c.differs ? c : { ...c, take: { ...c.take, name: "" } })));
    } catch (error) {
      say(error);
    } finally {
      done();
    }
  };
  const taken = (told ?? []).map((c) => ({ ...c.take, name: c.take.name.trim() })).filter((c) => c.name !== "");
  const set = (i: number, change: Partial<ToldChannel["take"]>) =>
    setTold((all) => all?.map((c, k) => (k === i ? { ...c, take: { ...c.take, ...change } } : c)) ?? null);
  const lay = () => {
    setTold(null);
    void commit({ edit: "lay_packed", picture: picture.hash, channels: taken, hard });
  };
  return (
    <div>
      <Button size="compact-xs" variant="default" onClick={() => void open()}>
        Its channels as masks…
      </Button>
      <Modal
        opened={told !== null}
        onClose={() => setTold(null)}
        title={`${picture.file}: its channels as masks`}
        size={480}
      >
        <p className="soft">
          Each channel with a name becomes a layer in flat colour that lies where the channel is full. Its mask is
          published under that name, so others can follow it.
        </p>
        {told?.map((c, i) => (
          <div key={c.take.channel} className="packed-row" data-channel={c.take.channel}>
            <ColorPatch
              label={`Colour for ${LABELS[c.take.channel]}`}
              value={c.take.color}
              keep={(color) => set(i, { color })}
            />
            <span>{LABELS[c.take.channel]}</span>
            <TextInput
              aria-label={`What lies in ${c.take.channel}`}
              placeholder="not taken"
              maxLength={120}
              value={c.take.name}
              onChange={(e) => set(i, { name: e.currentTarget.value })}
            />
            <span className="soft">{c.differs ? percent(c.mean) : "says nothing"}</span>
          </div>
        ))}
        <div className="row" style={{ marginTop: 10 }}>
          <Switch
            label="Hard edges, cut half-way"
            aria-label="Hard edges, cut half-way"
            checked={hard}
            onChange={(e) => setHard(e.currentTarget.checked)}
          />
          <Button disabled={taken.length === 0} onClick={lay}>
            Lay {taken.length} {taken.length === 1 ? "layer" : "layers"}
          </Button>
        </div>
      </Modal>
    </div>
  );
}
