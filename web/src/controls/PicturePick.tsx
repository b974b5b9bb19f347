// One of the pictures that were brought in for masks, or another one from a file.
import { ActionIcon, Select, Tooltip } from "@mantine/core";
import { IconPlus } from "@tabler/icons-react";

import { BringFiles } from "./BringFiles";
import { MadePictures } from "./MadePictures";
import { PICTURE_FILES } from "../api/bundle";
import { api } from "../api/client";
import { bring } from "../state/actions";
import { useStore } from "../state/store";

/** `inside` a box that closes when something outside of it is clicked. */
export function PicturePick({
  label,
  value,
  keep,
  inside = false,
  disabled = false,
}: {
  label: string;
  value: string;
  keep: (name: string) => void;
  inside?: boolean;
  disabled?: boolean;
}) {
  const all = useStore((s) => s.project?.document.intake.pictures);
  const names = (all ?? []).filter((p) => p.purpose === "mask").map((p) => p.file);
  const take = async (file: File) => {
    const after = await bring((p) => api.bringPicture(p.id, p.revision, file, "mask"));
    const picture = after?.document.intake.pictures.at(-1);
    if (picture) keep(picture.file);
  };
  return (
    <span className="row" style={{ gap: 4 }}>
      <Select
        className="value"
        w={78}
        aria-label={label}
        disabled={disabled}
        placeholder={names.length > 0 ? "pick" : "none yet"}
        comboboxProps={{ width: 200, position: "bottom-end", withinPortal: !inside }}
        data={names}
        value={value || null}
        onChange={(v) => v !== null && keep(v)}
      />
      <BringFiles label="Picture for masks" accept={PICTURE_FILES} take={([file]) => file && void take(file)}>
        {(props) => (
          <Tooltip label="Bring one in from a file">
            <ActionIcon aria-label="Bring in a picture for masks" variant="default" {...props}>
              <IconPlus size={14} />
            </ActionIcon>
          </Tooltip>
        )}
      </BringFiles>
      <MadePictures disabled={disabled} inside={inside} keep={keep} />
    </span>
  );
}
