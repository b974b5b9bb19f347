// The cabinet: a drawer over any room, with recipes, starters and finishes to find, look at and lay. Laying one never replaces anything.
import { ActionIcon, Button, Drawer, Select, TextInput, Tooltip } from "@mantine/core";
import { useInViewport, useWindowEvent } from "@mantine/hooks";
import { IconEngine, IconSphere, IconStar, IconStarFilled, type TablerIcon } from "@tabler/icons-react";
import { useQuery } from "@tanstack/react-query";
import { memo, useCallback, useEffect, useMemo, useState } from "react";

import { api } from "../api/client";
import { queries } from "../api/queries";
import type { Imported } from "../api/types";
import { BringFiles } from "../controls/BringFiles";
import { notifications } from "@mantine/notifications";
import { cabinetChanged, say } from "../state/actions";
import { useStore } from "../state/store";
import { SaveRecipe } from "../rooms/build/SaveRecipe";
import { FinishCard } from "./FinishCard";
import { PaletteCard, PictureCard } from "./HeldCard";
import { LineCard } from "./LineCard";
import { Liked } from "./Marks";
import { RecipeCard } from "./RecipeCard";
import { type Kind, type Order, ordered, searcher, type Thing, things } from "./things";

const NONE: never[] = [];
const NOTHING_FOUND = { palettes: NONE, pictures: NONE, favourites: NONE };
/** How many are drawn before one comes to their end. */
const AT_ONCE = 8;

const KINDS: { value: Kind | "all" | "removed"; label: string }[] = [
  { value: "all", label: "everything" },
  { value: "recipe", label: "recipes" },
  { value: "starter", label: "starters" },
  { value: "finish", label: "finishes" },
  { value: "palette", label: "palettes" },
  { value: "picture", label: "pictures" },
  { value: "removed", label: "what was taken out" },
];
const ORDERS: { value: Order; label: string }[] = [
  { value: "name", label: "by name" },
  { value: "newest", label: "newest first" },
  { value: "used", label: "most used first" },
];

export function Cabinet() {
  const opened = useStore((s) => s.cabinetOpen);
  // What is dragged out of it lands beside it: it covers nothing else and holds no focus.
  return (
    <Drawer
      opened={opened}
      onClose={close}
      position="right"
      size={380}
      title={<b>Cabinet</b>}
      withOverlay={false}
      trapFocus={false}
      lockScroll={false}
      closeOnClickOutside={false}
      closeOnEscape={false}
    >
      {opened && <Inside />}
    </Drawer>
  );
}

const close = () => useStore.setState({ cabinetOpen: false });

/** Escape closes what lies over the drawer first. It is asked before those hear of it, so it has to be one and the same as long as the drawer is open. */
function escape(e: KeyboardEvent): void {
  const over = document.querySelector(".mantine-Modal-content, .mantine-Menu-dropdown");
  if (e.key === "Escape" && over === null) close();
}

function Inside() {
  useWindowEvent("keydown", escape, { capture: true });
  const cards = useQuery({ queryKey: ["cabinet"], queryFn: api.cabinet, refetchOnMount: "always" });
  const lines = useQuery({ queryKey: ["lines"], queryFn: api.lines, refetchOnMount: "always" });
  const found = useQuery({ queryKey: ["found"], queryFn: api.foundThings, refetchOnMount: "always" });
  const catalog = useStore((s) => s.catalog);
  const [text, setText] = useState("");
  const [kind, setKind] = useState<Kind | "all" | "removed">("all");
  const [order, setOrder] = useState<Order>("name");
  const onPiece = useStore((s) => s.cabinetOnPiece);
  const [liked, setLiked] = useState(false);
  const [many, setMany] = useState(AT_ONCE);
  const [picked, setPicked] = useState<number[]>([]);
  const all = useMemo(
    () => things(cards.data ?? NONE, lines.data ?? NONE, catalog, found.data ?? NOTHING_FOUND),
    [cards.data, lines.data, catalog, found.data],
  );
  const wanted = useMemo(() => {
    const here = (t: Thing) =>
      t.marks.removed === (kind === "removed") && (kind === "all" || kind === "removed" || t.kind === kind);
    return all.filter((t) => here(t) && (!liked || t.marks.favourite));
  }, [all, kind, liked]);
  const search = useMemo(() => searcher(wanted), [wanted]);
  const words = text.trim();
  const shown = useMemo(
    () => (words.length < 2 ? ordered(wanted, order) : search(words)),
    [wanted, order, search, words],
  );
  const pick = useCallback(
    (id: number, on: boolean) => setPicked((now) => (on ? [...now, id] : now.filter((p) => p !== id))),
    [],
  );
  return (
    <>
      <TextInput
        autoFocus
        placeholder="Search: rust, dock paint, edges …"
        aria-label="Search the cabinet"
        value={text}
        onChange={(e) => {
          setText(e.currentTarget.value);
          setMany(AT_ONCE);
        }}
        onKeyDown={(e) => e.key !== "Escape" && e.stopPropagation()}
      />
      <div className="row cabinet-order">
        <Select
          aria-label="What is shown"
          style={{ flex: 1 }}
          data={KINDS}
          value={kind}
          allowDeselect={false}
          onChange={(v) => setKind((v ?? "all") as typeof kind)}
        />
        <Select
          aria-label="Order"
          style={{ flex: 1 }}
          data={ORDERS}
          value={order}
          allowDeselect={false}
          onChange={(v) => setOrder((v ?? "name") as Order)}
        />
        <Toggle
          label="On this piece"
          help={onPiece ? "Show them on the ball" : "Show them on this piece, from where you look"}
          on={onPiece}
          set={(cabinetOnPiece) => useStore.setState({ cabinetOnPiece })}
          icons={[IconSphere, IconEngine]}
        />
        <Toggle
          label="Favourites alone"
          help={liked ? "Show all" : "Show favourites alone"}
          on={liked}
          set={setLiked}
          icons={[IconStar, IconStarFilled]}
        />
      </div>
      {cards.isError && <p className="warn">{cards.error.message}</p>}
      <div className="cabinet-things" data-found={shown.length}>
        {shown.slice(0, many).map((thing) => (
          <One
            key={thing.key}
            thing={thing}
            picked={thing.kind === "recipe" && picked.includes(thing.card.id)}
            pick={pick}
          />
        ))}
      </div>
      {shown.length > many && <More key={many} left={shown.length - many} take={() => setMany(many + AT_ONCE)} />}
      {shown.length === 0 && cards.isSuccess && <Nothing kind={kind} searched={words !== ""} />}
      <Foot picked={picked} />
    </>
  );
}

interface ToggleProps {
  label: string;
  help: string;
  on: boolean;
  set: (on: boolean) => void;
  /** Off and on. */
  icons: [TablerIcon, TablerIcon];
}

function Toggle({ label, help, on, set, icons }: ToggleProps) {
  const Icon = icons[on ? 1 : 0];
  return (
    <Tooltip label={help}>
      <ActionIcon variant="default" size={30} aria-label={label} aria-pressed={on} onClick={() => set(!on)}>
        <Icon size={15} />
      </ActionIcon>
    </Tooltip>
  );
}

/** The end of what is drawn: more is drawn once it comes into view. */
function More({ left, take }: { left: number; take: () => void }) {
  const { ref, inViewport } = useInViewport<HTMLButtonElement>();
  useEffect(() => {
    if (inViewport) take();
  });
  return (
    <Button ref={ref} variant="default" fullWidth onClick={take}>
      {left} more
    </Button>
  );
}

interface OneProps {
  thing: Thing;
  picked: boolean;
  pick: (id: number, on: boolean) => void;
}

/** Drawn anew only where it is another: a letter more in the search leaves most where they are. */
const One = memo(({ thing, picked, pick }: OneProps) => {
  const star = <Liked thing={thing.key} name={thing.name} favourite={thing.marks.favourite} />;
  switch (thing.kind) {
    case "recipe": {
      const { card } = thing;
      return <RecipeCard card={card} picked={picked} pick={(on) => pick(card.id, on)} />;
    }
    case "starter":
      return <LineCard line={thing.line} />;
    case "finish":
      return <FinishCard entry={thing.entry} star={star} />;
    case "palette":
      return <PaletteCard found={thing.found} star={star} />;
    case "picture":
      return <PictureCard found={thing.found} star={star} />;
  }
});

function Nothing({ kind, searched }: { kind: string; searched: boolean }) {
  if (searched) return <p className="soft">Nothing is called that. Try a tag, a layer or a dial that is in it.</p>;
  if (kind === "removed") return <p className="soft">Nothing was taken out.</p>;
  return (
    <p className="soft">
      Nothing here yet. In Build, choose “Save as a recipe” in the menu of a layer or group, or “Save as a starter” over
      a mask line.
    </p>
  );
}

/** What brings recipes in and takes them out as files. */
function Foot({ picked }: { picked: number[] }) {
  const [saving, setSaving] = useState(false);
  const dressed = useStore((s) => (s.project?.document.layers.length ?? 0) > 0);
  const bring = ([file]: File[]) => {
    if (file) api.importRecipes(file).then(imported, say);
  };
  return (
    <div className="cabinet-foot">
      {picked.length > 0 && (
        <Button component="a" href={api.recipeFiles(picked)} download>
          {picked.length === 1 ? "Export it" : `Export ${picked.length} as a ZIP`}
        </Button>
      )}
      <Button variant="default" disabled={!dressed} onClick={() => setSaving(true)}>
        Save the section as a recipe…
      </Button>
      <BringFiles label="Recipe file" accept=".coatrecipe,.zip" take={bring}>
        {(props) => (
          <Button variant="default" fullWidth {...props}>
            Import a .coatrecipe file or a ZIP of them
          </Button>
        )}
      </BringFiles>
      {saving && <SaveRecipe layer={null} close={() => setSaving(false)} />}
    </div>
  );
}

function imported({ cards, taken, there }: Imported): void {
  queries.setQueryData(["cabinet"], cards);
  cabinetChanged();
  const news = taken.length > 0 ? `${taken.join(", ")} ${taken.length === 1 ? "is" : "are"} in the cabinet now.` : "";
  const old = there.length > 0 ? `${there.join(", ")} ${there.length === 1 ? "was" : "were"} there already.` : "";
  notifications.show({ message: `${news} ${old}`.trim(), withBorder: true });
}
