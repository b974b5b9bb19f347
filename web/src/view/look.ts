// A look: the textures of one state of the piece, and the materials that show them. The stage has one of the present state and, while it is wiped, one of a snapshot.
import type { Material, MeshStandardMaterial } from "three";

import type { EvaluationView, Part } from "../api/types";
import type { Shown } from "../state/store";
import { litMaterial, move, partsMaterial, plainMaterial, SHELL_COLORS } from "./materials";
import { Slot } from "./textures";

/** What the lit material depends on but for the pixels. */
function lobesOf(e: EvaluationView | null): string {
  return e
    ? `${e.see_through ? "see-through" : "solid"} ${e.more.map((m) => `${m.map} ${m.factor}`).join()} ${e.tint ? `${e.tint.color.join()} ${e.tint.distance}` : ""} ${e.moved?.range.join() ?? ""}`
    : "";
}

/** What following an evaluation brought. */
interface Followed {
  /** Whether any texture holds other pixels than before, or the lit material needs other lobes. */
  news: boolean;
  /** Whether what is asked for by itself (a mask, a reading, a channel) is there. */
  alone: boolean;
}

const AT_HAND: Shown[] = ["lit", "parts", "shells", "base_color", "normal", "roughness", "metallic"];

export class Look {
  /** `cover` is done to every lit material that is made. */
  constructor(private readonly cover: (lit: MeshStandardMaterial) => MeshStandardMaterial = (lit) => lit) {}

  private readonly slots = {
    base: new Slot(4, true),
    orm: new Slot(4, false),
    normal: new Slot(4, false),
    single: new Slot(1, false),
    colors: new Slot(4, true),
    height: new Slot(1, false),
    parts: new Slot(1, false, true),
    shells: new Slot(1, false, true),
  };
  private readonly more = new Map<string, Slot>();
  private readonly wardrobe = new Map<string, Material>();
  private textures = "";
  /** What the textures hold. */
  private worn: EvaluationView | null = null;

  /** Brings the textures up to an evaluation. */
  async follow(e: EvaluationView): Promise<Followed> {
    const alone = e.channel;
    const single = e.mask ?? e.reading ?? (alone && !alone.colors ? alone.pixels : null);
    const wanted: [Slot, string | null][] = [
      [this.slots.base, e.base_color],
      [this.slots.orm, e.orm],
      [this.slots.normal, e.normal],
      [this.slots.single, single],
      [this.slots.colors, alone?.colors ? alone.pixels : null],
      [this.slots.height, e.moved?.pixels ?? null],
      [this.slots.parts, e.parts],
      [this.slots.shells, e.shells],
      ...e.more.map((m): [Slot, string] => [this.packed(m.map, m.srgb), m.pixels]),
    ];
    const news = await Promise.all(
      wanted.map(([slot, address]) =>
        address === null ? Promise.resolve(false) : slot.follow(address, e.size, e.sheets),
      ),
    );
    const before = lobesOf(this.worn);
    this.worn = e;
    return { news: news.some(Boolean) || lobesOf(e) !== before, alone: single !== null || alone?.colors === true };
  }

  /**
   * The material that shows what is asked for, or none while the texture that it comes in is another one's. It is kept while its textures are, since compiling it
   * is dear.
   */
  material(shown: Shown, part: number | null, parts: Part[], aloneIsThere: boolean): Material | null {
    if (!AT_HAND.includes(shown) && !aloneIsThere) return null;
    const textures = this.all()
      .map((s) => s.texture.uuid)
      .join();
    if (textures !== this.textures) this.undress();
    this.textures = textures;
    const key =
      shown === "parts"
        ? `parts ${part ?? ""} ${parts.map((p) => p.color).join()}`
        : shown === "lit"
          ? `lit ${lobesOf(this.worn)}`
          : shown;
    const material = this.wardrobe.get(key) ?? this.fitting(shown, part, parts);
    this.wardrobe.set(key, material);
    return material;
  }

  /** Whether its lit material moves the surface. */
  moves(): boolean {
    return this.worn !== null && this.worn.moved !== null;
  }

  /** The part under a place of the textures. */
  partAt(u: number, v: number): number | null {
    return this.slots.parts.texelAt(u, v)[0] ?? null;
  }

  /** The base color under a place of the textures, as `#rrggbb`. */
  colorAt(u: number, v: number): string {
    return `#${this.slots.base
      .texelAt(u, v)
      .slice(0, 3)
      .map((c) => c.toString(16).padStart(2, "0"))
      .join("")}`;
  }

  undress(): void {
    for (const material of this.wardrobe.values()) material.dispose();
    this.wardrobe.clear();
  }

  dispose(): void {
    this.undress();
    for (const slot of this.all()) slot.dispose();
  }

  private all(): Slot[] {
    return [...Object.values(this.slots), ...this.more.values()];
  }

  private packed(map: string, srgb: boolean): Slot {
    const slot = this.more.get(map) ?? new Slot(4, srgb);
    this.more.set(map, slot);
    return slot;
  }

  private fitting(shown: Shown, part: number | null, parts: Part[]): Material {
    const { base, orm, normal, single, colors } = this.slots;
    switch (shown) {
      case "lit": {
        const more = (this.worn?.more ?? []).map((m) => ({
          map: m.map,
          factor: m.factor,
          texture: this.packed(m.map, m.srgb).texture,
        }));
        const lit = litMaterial(
          base.texture,
          orm.texture,
          normal.texture,
          more,
          this.worn?.see_through ?? false,
          this.worn?.tint ?? null,
        );
        return this.cover(this.worn?.moved ? move(lit, this.slots.height.texture, this.worn.moved.range) : lit);
      }
      case "parts":
        return partsMaterial(
          this.slots.parts.texture,
          parts.map((p) => p.color),
          part,
        );
      case "shells":
        return partsMaterial(this.slots.shells.texture, SHELL_COLORS, null);
      case "base_color":
        return plainMaterial(base.texture, null);
      case "normal":
        return plainMaterial(normal.texture, null);
      case "roughness":
        return plainMaterial(orm.texture, 1);
      case "metallic":
        return plainMaterial(orm.texture, 2);
      default: {
        const colored = shown.startsWith("channel:") && this.worn?.channel?.colors === true;
        return colored ? plainMaterial(colors.texture, null) : plainMaterial(single.texture, 0);
      }
    }
  }
}
