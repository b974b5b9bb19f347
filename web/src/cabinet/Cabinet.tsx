// The cabinet: a drawer over any room, with the recipes that are kept. Laying one never replaces anything.
import { Button, Drawer, FileButton } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";

import { api } from "../api/client";
import type { CabinetCard } from "../api/types";
import { layRecipe, say } from "../state/actions";
import { bands } from "../controls/bands";
import { useStore } from "../state/store";

export function Cabinet() {
  const opened = useStore((s) => s.cabinetOpen);
  const close = () => useStore.setState({ cabinetOpen: false });
  return (
    <Drawer opened={opened} onClose={close} position="right" size={340} title={<b>Cabinet</b>} overlayProps={{ backgroundOpacity: 0.15 }}>
      {opened && <Recipes />}
    </Drawer>
  );
}

function Recipes() {
  const queries = useQueryClient();
  const recipes = useQuery({ queryKey: ["cabinet"], queryFn: api.cabinet, refetchOnMount: "always" });
  const bring = (file: File | null) => {
    if (file) api.importRecipe(file).then((cards) => queries.setQueryData(["cabinet"], cards), say);
  };
  return (
    <>
      {recipes.isError && <p className="warn">{recipes.error.message}</p>}
      {recipes.data?.length === 0 && <p className="soft">No recipes yet. In Build, select a layer or group and choose “Save as a recipe”.</p>}
      {recipes.data?.map((card) => <Card key={card.id} card={card} />)}
      <FileButton onChange={bring} accept=".coatrecipe" inputProps={{ "aria-label": "Recipe file" }}>
        {(props) => <Button variant="default" fullWidth {...props}>Import a .coatrecipe file</Button>}
      </FileButton>
    </>
  );
}

function Card({ card: { id, recipe, needs, colors } }: { card: CabinetCard }) {
  const layers = recipe.layers.map((layer, i) => ({ layer, colors: colors[i] ?? [] })).reverse();
  return (
    <article className="recipe-card" data-recipe={recipe.name}>
      <h2>{recipe.name}</h2>
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
      {needs.length > 0 && <p className="soft" style={{ fontSize: 12 }}>Needs {needs.join(", ").toLowerCase()}; measured if missing.</p>}
      <div className="row">
        <Button onClick={() => void layRecipe(id)}>Lay on this piece</Button>
        <Button component="a" variant="default" href={`/api/cabinet/${id}/file`} download={`${recipe.name}.coatrecipe`}>Export</Button>
      </div>
    </article>
  );
}
