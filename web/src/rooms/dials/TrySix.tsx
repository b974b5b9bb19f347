// Try six: pictures of the piece with other values of its dials, from where one looks; one is taken, kept, or six more are drawn around it.
import { ActionIcon, Button, Modal, NumberInput, SegmentedControl, Tooltip } from "@mantine/core";
import { IconDice5 } from "@tabler/icons-react";
import { useEffect, useState } from "react";

import { api } from "../../api/client";
import type { Edit, ProjectView, Reach, Value } from "../../api/types";
import { freeName } from "../../controls/KeepAs";
import { Look } from "../../controls/Look";
import { Said } from "../../controls/Said";
import { commit, say } from "../../state/actions";
import { specOf } from "../../state/document";
import { asSeen } from "../../view/asSeen";

const REACHES: { value: Reach; label: string }[] = [
  { value: "held", label: "held" },
  { value: "little", label: "a little" },
  { value: "lot", label: "a lot" },
];
/** Pixels of a picture from top to bottom, and samples to each. */
const PICTURE = { height: 180, samples: 16 };
const LAST_SEED = 999_999;

type Choice = Record<string, Value | undefined>;

export function TrySix({ project }: { project: ProjectView }) {
  const [opened, setOpened] = useState(false);
  return (
    <>
      <Button variant="default" onClick={() => setOpened(true)}>
        Try six
      </Button>
      <Modal opened={opened} onClose={() => setOpened(false)} title="Try six" size={1080} yOffset={40}>
        {opened && <Inside project={project} close={() => setOpened(false)} />}
      </Modal>
    </>
  );
}

/** What turns the dials to a choice. */
const turns = (choice: Choice): Edit[] =>
  Object.entries(choice).flatMap(([dial, value]) =>
    value === undefined ? [] : [{ edit: "turn_dial" as const, dial, value }],
  );

function Inside({ project, close }: { project: ProjectView; close: () => void }) {
  const dials = project.document.dials.filter((d) => d.formula === undefined);
  const [reaches, setReaches] = useState<Record<string, Reach>>(
    Object.fromEntries(dials.map((d) => [d.id, "little" as const])),
  );
  const [seed, setSeed] = useState(1);
  const [choices, setChoices] = useState<Choice[]>([]);
  const [still] = useState(() => asSeen(PICTURE.height, PICTURE.samples));
  const { id, revision } = project;
  useEffect(() => {
    let wanted = true;
    api.six(id, { reaches, seed }).then((six) => wanted && setChoices(six.choices as Choice[]), say);
    return () => {
      wanted = false;
    };
  }, [id, revision, reaches, seed]);
  const now: Choice = Object.fromEntries(dials.map((d) => [d.id, d.value]));
  const names = (project.document.variants ?? []).map((v) => v.name);
  return (
    <div className="six">
      <div className="six-dials">
        <p className="soft" style={{ margin: 0 }}>
          Which dials take part, and how far.
        </p>
        {dials.map((d) => (
          <div key={d.id} data-reach={d.label}>
            <span>{d.label}</span>
            <SegmentedControl
              fullWidth
              aria-label={`How far ${d.label} is moved`}
              data={REACHES}
              value={reaches[d.id] ?? "held"}
              onChange={(v) => setReaches({ ...reaches, [d.id]: v as Reach })}
            />
          </div>
        ))}
        <div className="row">
          <NumberInput
            label="Seed"
            style={{ flex: 1 }}
            min={0}
            max={LAST_SEED}
            allowDecimal={false}
            value={seed}
            onChange={(v) => typeof v === "number" && setSeed(Math.min(LAST_SEED, Math.max(0, v)))}
          />
          <Tooltip label="Throw another six">
            <ActionIcon
              variant="default"
              mt={22}
              size={30}
              aria-label="Throw another six"
              onClick={() => setSeed(Math.floor(Math.random() * LAST_SEED))}
            >
              <IconDice5 size={16} />
            </ActionIcon>
          </Tooltip>
        </div>
      </div>
      <div className="six-choices">
        {choices.map((choice, i) => (
          <figure key={i} data-choice={i + 1}>
            <Look edits={turns(choice)} still={still} alt={`Choice ${i + 1}`} />
            <figcaption>
              <span className="soft six-values">
                {dials
                  .filter((d) => choice[d.id] !== undefined)
                  .map((d) => (
                    <span key={d.id}>
                      {d.label} <Said spec={specOf(d)} value={choice[d.id] ?? ""} />
                    </span>
                  ))}
              </span>
              <span className="row">
                <Button
                  aria-label={`Take choice ${i + 1}`}
                  onClick={() => {
                    close();
                    void commit(...turns(choice));
                  }}
                >
                  Take it
                </Button>
                <Button
                  variant="default"
                  aria-label={`Keep choice ${i + 1} as a variant`}
                  onClick={() =>
                    void commit(
                      ...turns(choice),
                      { edit: "keep_variant", name: freeName("Variant", names) },
                      ...turns(now),
                    )
                  }
                >
                  Keep as variant
                </Button>
                <Button
                  variant="default"
                  aria-label={`Six around choice ${i + 1}`}
                  onClick={() => {
                    void commit(...turns(choice)).then(() => setSeed((seed % LAST_SEED) + 1));
                  }}
                >
                  Six around it
                </Button>
              </span>
            </figcaption>
          </figure>
        ))}
      </div>
    </div>
  );
}
