/** Where a map sends a build: asked once, when its commit is noticed. */
export interface Aim {
  /** The version of the map. */
  readonly map: number;
  /** The rules that want it, in lane order. */
  readonly rules: readonly string[];
  readonly why: string;
  /** The family whose rule lets none of its steps reach out; left out where they may as they say. */
  readonly shutInBy?: string;
}

/** A page that was pictured, or why not; the images lie on disk, by its place. */
export interface PageTaken {
  readonly place: number;
  readonly share: number | null;
  readonly sides: readonly ('before' | 'after' | 'difference')[];
  readonly why: string | null;
}
