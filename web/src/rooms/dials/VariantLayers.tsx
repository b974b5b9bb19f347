// Which layers are shown in each variant, as rows of the table of variants.
import { IconEye, IconEyeOff } from "@tabler/icons-react";

import type { Layer, ProjectView, Variant } from "../../api/types";
import { commit } from "../../state/actions";
import { allLayers } from "../../state/document";

export function VariantLayers({ project, variants }: { project: ProjectView; variants: Variant[] }) {
  return [...allLayers(project.document.layers)].reverse().map((layer) => (
    <tr key={layer.id}>
      <th scope="row" title={layer.name}>
        {layer.name}
      </th>
      {variants.map((variant) => (
        <td key={variant.name}>
          <Shown layer={layer} variant={variant} shown={project.variants[variant.name]?.shown[layer.id]} />
        </td>
      ))}
    </tr>
  ));
}

interface Props {
  layer: Layer;
  variant: Variant;
  /** None where the variant leaves it alone. */
  shown: boolean | undefined;
}

/** Turned from shown to hidden, and from there to what the variant builds on, or to being left alone. */
function Shown({ layer, variant, shown }: Props) {
  const own = (variant.shown ?? {})[layer.id];
  const next = own === undefined ? !(shown ?? layer.shown) : null;
  const says = shown === undefined ? "left alone" : shown ? "shown" : "hidden";
  return (
    <button
      className="variant-cell"
      aria-label={`${layer.name} in ${variant.name}: ${says}`}
      data-own={own !== undefined}
      onClick={() => void commit({ edit: "show_in_variant", name: variant.name, layer: layer.id, shown: next })}
    >
      {shown === undefined ? "–" : shown ? <IconEye size={14} /> : <IconEyeOff size={14} />}
      {shown === undefined ? "" : says}
    </button>
  );
}
