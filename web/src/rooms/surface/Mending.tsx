// What is mended of the mesh: settings that can be switched at any time; the file stays as it came.
import type { ProjectView } from "../../api/types";
import { Fold } from "../../controls/Fold";
import { Setting } from "../../controls/Setting";
import { useStore } from "../../state/store";

export function Mending({ project }: { project: ProjectView }) {
  const specs = useStore((s) => s.catalog.find((e) => e.family === "mending")?.params);
  const settings = project.document.intake.mending ?? {};
  const set = Object.keys(settings).length;
  return (
    <Fold title="Mending" note={set > 0 ? `${set} set` : ""}>
      {specs
        ?.filter((spec) => project.piece.mendable.includes(spec.key))
        .map((spec) => (
          <Setting
            key={spec.key}
            spec={spec}
            param={settings[spec.key]}
            target={{ mending: true, key: spec.key }}
            drivable={false}
          />
        ))}
      <p className="hint" style={{ paddingInline: 0 }}>
        The mesh file stays as it came. What is handed off has what is mended here.
      </p>
    </Fold>
  );
}
