// Where the selected pin lies: laid by a click on the piece, moved by its frame, taken off again.
import { Button } from "@mantine/core";

import type { Layer, Step } from "../../api/types";
import { commit } from "../../state/actions";
import { setParam } from "../../state/document";
import { hasSpot } from "../../state/pin";
import { Strokes } from "./Strokes";

export function PinBlock({ layer, step }: { layer: Layer; step: Step }) {
  const place = { layer: layer.id, step: step.id };
  return (
    <>
      {hasSpot(step) ? (
        <div className="block" data-testid="pin">
          <div className="channel-head">
            <h2>{step.spot ? "Laid" : "Not laid yet"}</h2>
            {step.spot && (
              <Button variant="default" onClick={() => void commit({ edit: "lay_pin", ...place, spot: null })}>
                Take off
              </Button>
            )}
          </div>
          <p className="soft">
            {step.spot
              ? "Drag it over the piece; a corner sizes it, the knob above it turns it. Arrow keys move it by a millimetre, with Shift by ten; [ and ] size it, with Shift they turn it."
              : "Click the piece where its middle is to lie."}
          </p>
        </div>
      ) : (
        <Strokes layer={layer} step={step} />
      )}
      <OwnColours layer={layer} />
    </>
  );
}

/** Lets a coat take the colours of what its pin lays, where something else says them. */
function OwnColours({ layer }: { layer: Layer }) {
  if (layer.kind !== "coat") return null;
  const param = layer.finish.channels["base_color"]?.settings["color"];
  const pinned = typeof param === "object" && "colors" in param && param.colors.kind === "pinned_colors";
  const target = { layer: layer.id, channel: "base_color", key: "color" };
  return (
    <div className="block">
      <div className="row">
        <span>{pinned ? "In the picture’s own colours" : "In the coat’s own colour"}</span>
        {!pinned && (
          <Button
            variant="default"
            onClick={() =>
              void commit(
                { edit: "set_channel", layer: layer.id, channel: "base_color", on: true },
                setParam(target, { colors: { kind: "pinned_colors", settings: {} } }),
              )
            }
          >
            Take the picture’s
          </Button>
        )}
      </div>
    </div>
  );
}
