// The cabinet: a drawer over any room, with the recipes and mask lines that are kept. Laying one never replaces anything.
import { Button, Drawer } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useQuery, useQueryClient } from "@tanstack/react-query";

import { api } from "../api/client";
import type { CabinetCard, KeptLine } from "../api/types";
import { cabinetChanged, layRecipe, say } from "../state/actions";
import { BringFiles } from "../controls/BringFiles";
import { bands } from "../controls/bands";
import { findLayer } from "../state/document";
import { useStore } from "../state/store";
import { addSteps } from "../rooms/build/steps";

export function Cabinet() {
  const opened = useStore((s) => s.cabinetOpen);
  const close = () => useStore.setState({ cabinetOpen: false });
  return (
    <Drawer
      opened={opened}
      onClose={close}
      position="right"
      size={340}
      title={<b>Cabinet</b>}
      overlayProps={{ backgroundOpacity: 0.15 }}
    >
      {opened && (
        <>
          <Recipes />
          <Lines />
        </>
      )}
    </Drawer>
  );
}

function Recipes() {
  const queries = useQueryClient();
  const recipes = useQuery({ queryKey: ["cabinet"], queryFn: api.cabinet, refetchOnMount: "always" });
  const bring = ([file]: File[]) => {
    if (!file) return;
    const take = (cards: CabinetCard[]) => {
      queries.setQueryData(["cabinet"], cards);
      cabinetChanged();
    };
    api.importRecipe(file).then(take, say);
  };
  return (
    <>
      {recipes.isError && <p className="warn">{recipes.error.message}</p>}
      {recipes.data?.length === 0 && (
        <p className="soft">No recipes yet. In Build, select a layer or group and choose “Save as a recipe”.</p>
      )}
      {recipes.data?.map((card) => (
        <Card key={card.id} card={card} />
      ))}
      <BringFiles label="Recipe file" accept=".coatrecipe" take={bring}>
        {(props) => (
          <Button variant="default" fullWidth {...props}>
            Import a .coatrecipe file
          </Button>
        )}
      </BringFiles>
    </>
  );
}

/** Mask lines that were saved as starters: put into the selected layer's line, or taken out of the cabinet, which can be taken back. */
function Lines() {
  const queries = useQueryClient();
  const lines = useQuery({ queryKey: ["lines"], queryFn: api.lines, refetchOnMount: "always" });
  const layer = useStore((s) =>
    s.project && s.layer !== null ? findLayer(s.project.document.layers, s.layer) : undefined,
  );
  const building = useStore((s) => s.room === "build");
  const put = (work: Promise<KeptLine[]>) => work.then((all) => queries.setQueryData(["lines"], all), say);
  const remove = (line: KeptLine) => {
    void put(api.removeLine(line.id));
    const id = `line-${line.id}`;
    notifications.show({
      id,
      message: (
        <>
          {line.name} is out of the cabinet.{" "}
          <Button
            variant="subtle"
            onClick={() => {
              notifications.hide(id);
              void put(api.restoreLine(line.id));
            }}
          >
            Put it back
          </Button>
        </>
      ),
    });
  };
  if (!lines.data || lines.data.length === 0)
    return (
      <p className="soft" style={{ marginTop: 14 }}>
        No starters of your own yet. Under a mask line, choose “Save as a starter”.
      </p>
    );
  return (
    <>
      <h2 style={{ marginTop: 14 }}>Your starters</h2>
      {lines.data.map((line) => (
        <article key={line.id} className="recipe-card" data-line={line.name}>
          <h2>{line.name}</h2>
          {line.note && <p className="soft">{line.note}</p>}
          <p>
            {line.steps.length} {line.steps.length === 1 ? "step" : "steps"}
          </p>
          <div className="row">
            <Button
              disabled={!layer || !building}
              onClick={() => {
                if (layer) void addSteps(layer, layer.mask.steps.length, line.steps);
              }}
            >
              {layer && building ? `Add to ${layer.name}` : "Select a layer in Build"}
            </Button>
            <Button variant="default" onClick={() => remove(line)}>
              Remove
            </Button>
          </div>
        </article>
      ))}
    </>
  );
}

function Card({ card: { id, recipe, needs, colors } }: { card: CabinetCard }) {
  const layers = recipe.layers.map((layer, i) => ({ layer, colors: colors[i] ?? [] })).reverse();
  return (
    <article className="recipe-card" data-recipe={recipe.name}>
      <img src={`/api/cabinet/${id}/picture`} alt="" width={184} height={148} />
      <h2>
        {recipe.name} {recipe.version > 1 && <span className="soft">version {recipe.version}</span>}
      </h2>
      {recipe.note && <p className="soft">{recipe.note}</p>}
      <div className="recipe-layers">
        {layers.map(({ layer, colors }) => (
          <span key={layer.id}>
            <i className="swatch" style={{ background: bands(colors) }} />
            {layer.name}
          </span>
        ))}
      </div>
      {recipe.dials.length > 0 && <p style={{ fontSize: 12 }}>Dials: {recipe.dials.map((d) => d.label).join(", ")}</p>}
      {needs.length > 0 && (
        <p className="soft" style={{ fontSize: 12 }}>
          Needs {needs.join(", ").toLowerCase()}; measured if missing.
        </p>
      )}
      <div className="row">
        <Button onClick={() => void layRecipe(id)}>Lay on this piece</Button>
        <Button component="a" variant="default" href={`/api/cabinet/${id}/file`} download={`${recipe.name}.coatrecipe`}>
          Export
        </Button>
      </div>
    </article>
  );
}
