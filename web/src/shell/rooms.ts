// The rooms, in the order of the work.
import type { ProjectView } from "../api/types";

export const ROOMS = ["study", "surface", "build", "dials", "handoff"] as const;
export type Room = (typeof ROOMS)[number];

export const ROOM_NAMES: Record<Room, string> = {
  study: "Study",
  surface: "Surface",
  build: "Build",
  dials: "Dials",
  handoff: "Hand-off",
};

/** The rooms that have something to offer. */
export function openRooms(project: ProjectView | null): Room[] {
  const dials = project?.document.dials.length ?? 0;
  const recipes = project?.document.layers.some((l) => l.kind === "use" && l.recipe.dials.length > 0) ?? false;
  return ROOMS.filter((r) => r !== "dials" || dials > 0 || recipes);
}
