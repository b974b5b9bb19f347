// A finish from pictures: what each file of a set shows, how wide they lie on the piece, and how deep their height goes.
import { Button, Group, Modal, NumberInput, Radio, Select, TextInput } from "@mantine/core";
import { useEffect, useState } from "react";

import { api } from "../../api/client";
import type { Shows, ToldPictures } from "../../api/types";
import { bring, say, selectNew } from "../../state/actions";
import { busy, useStore } from "../../state/store";
import { placeOver } from "./lay";

export function Pictured({ files, close }: { files: File[]; close: () => void }) {
  const layer = useStore((s) => s.layer);
  const [told, setTold] = useState<ToldPictures | null>(null);
  const [shows, setShows] = useState<Shows[]>([]);
  const [name, setName] = useState("");
  const [width, setWidth] = useState<string | number>("");
  const [relief, setRelief] = useState<string | number>("");
  const [tiles, setTiles] = useState(false);
  const [pictures, setPictures] = useState<string[]>([]);
  useEffect(() => {
    const addresses = files.map((f) => URL.createObjectURL(f));
    const done = busy();
    const tell = async () => {
      const set = await Promise.all(files.map((f) => api.setAside(f)));
      const came = await api.tellPictures(set);
      setPictures(addresses);
      setTold(came);
      setShows(came.pictures.map((p) => p.shows));
      setName(came.name);
      setWidth(came.width.default);
      setRelief(came.relief.default);
    };
    tell()
      .catch((error: unknown) => {
        say(error);
        close();
      })
      .finally(done);
    return () => addresses.forEach((a) => URL.revokeObjectURL(a));
    // The files are given once.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [files]);
  const used = shows.filter((s) => s !== "nothing");
  const wrong =
    used.length === 0
      ? "Say of at least one picture what it shows."
      : width === "" || relief === ""
        ? "Say how many mm."
        : null;
  const lay = async () => {
    if (!told || wrong !== null) return;
    const laid = await selectNew(() =>
      bring((p) =>
        api.layPictured(p.id, {
          revision: p.revision,
          name: name.trim() || told.name,
          ...placeOver(layer),
          pictures: told.pictures.map((one, i) => [one.picture, shows[i] ?? one.shows]),
          width: Number(width),
          relief: Number(relief),
          tiles,
        }),
      ),
    );
    // What was refused, and said why, can be put right.
    if (laid !== null) close();
  };
  const millimetres = { rightSection: <span className="soft mono">mm</span>, w: 120 };
  return (
    <Modal opened onClose={close} title="A finish from pictures" size={680} yOffset={60}>
      {told === null ? (
        <p className="soft">Looking at {files.length === 1 ? "the picture" : `${files.length} pictures`} …</p>
      ) : (
        <>
          <ul className="pictured">
            {told.pictures.map((one, i) => (
              <li key={one.picture.hash}>
                <img src={pictures[i]} alt="" width={64} height={64} />
                <span>
                  <b>{one.picture.file}</b>
                  <small className="soft">{one.why}</small>
                </span>
                <Select
                  w={230}
                  aria-label={`What ${one.picture.file} shows`}
                  data={told.shows.map(([value, text]) => ({ value, label: text }))}
                  value={shows[i] ?? one.shows}
                  allowDeselect={false}
                  onChange={(v) => setShows(shows.map((s, k) => (k === i ? (v as Shows) : s)))}
                  comboboxProps={{ withinPortal: false }}
                />
              </li>
            ))}
          </ul>
          <Group align="end" gap={12} mt="md">
            <TextInput label="Name" value={name} maxLength={80} onChange={(e) => setName(e.currentTarget.value)} />
            <NumberInput
              label="Width on the piece"
              value={width}
              onChange={setWidth}
              min={told.width.min}
              max={told.width.max}
              {...millimetres}
            />
            {used.includes("height") && (
              <NumberInput
                label="Black to white"
                value={relief}
                onChange={setRelief}
                min={told.relief.min}
                max={told.relief.max}
                {...millimetres}
              />
            )}
          </Group>
          <Radio.Group
            mt="md"
            aria-label="How they go on"
            value={tiles ? "tiles" : "hidden"}
            onChange={(v) => setTiles(v === "tiles")}
          >
            <Radio value="hidden" label="Go on without a repeat that is seen: earth, rust, plaster" />
            <Radio mt={6} value="tiles" label="Go on as tiles, rows and courses whole: brick, cloth, planks" />
          </Radio.Group>
          <p className="soft" style={{ marginTop: 10 }}>
            They lie from three sides. The width becomes a dial.
          </p>
          <Group justify="end" mt="sm" gap={10}>
            {wrong !== null && <span className="state-missing">{wrong}</span>}
            <Button variant="default" onClick={close}>
              Cancel
            </Button>
            <Button disabled={wrong !== null} onClick={() => void lay()}>
              Lay it
            </Button>
          </Group>
        </>
      )}
    </Modal>
  );
}
