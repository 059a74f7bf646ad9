import { isRendered, shownRows, type FileTable, type Order, type OrderedPass, type PassRole } from '@mint-tally/core';

/** A pass's file for one frame, and the pass's own channels where the brief names them. */
export interface PassFile {
  readonly path: string;
  /** Milliseconds since 1970. */
  readonly modified: number;
  readonly channels: readonly string[] | null;
}

/** What noise is measured with besides the colours. */
export const featureRoles = ['albedo', 'normal', 'depth', 'motion'] as const;
export type FeatureRole = (typeof featureRoles)[number];

/** One frame, with the files of the passes that are measured and of those that help. */
export interface FramePlan {
  readonly frame: number;
  /** By the name of the colour pass. */
  readonly colours: Readonly<Record<string, PassFile>>;
  readonly features: Readonly<Record<FeatureRole, PassFile | null>>;
  /** The pass that halves and lights are held against: the beauty; null where none was ordered. */
  readonly whole: string | null;
  /** The two halves of the beauty's samples; null where none were ordered, or one lacks. */
  readonly halves: readonly [PassFile, PassFile] | null;
  /** Passes that are held against the beauty, by name. */
  readonly beside: Readonly<Record<string, PassFile & { readonly role: PassRole }>>;
  /** The light passes that sum to the beauty; empty where one lacks. */
  readonly lights: readonly (PassFile & { readonly pass: string })[];
}

export interface AssayPlan {
  /** Names of the passes whose noise is measured. */
  readonly passes: readonly string[];
  readonly frames: readonly FramePlan[];
}

/** Works out which files tell of which frame. */
export function planAssay(order: Order, table: FileTable): AssayPlan {
  const files = new Map(order.passes.map((ordered) => [ordered.pass.name, filesOf(ordered, order, table)] as const));
  // What a pass is without its noise stands for no light of its own, and is held against nothing.
  const rendered = order.passes.filter(({ pass }) => isRendered(pass));
  const ofRole = (...roles: PassRole[]) => rendered.filter(({ pass }) => pass.role !== undefined && roles.includes(pass.role));
  const colours = order.passes.filter(({ pass }) => pass.role === 'beauty' || pass.role === 'light');
  const helping = Object.fromEntries(featureRoles.map((role) => [role, ofRole(role)[0] ?? null])) as Record<FeatureRole, OrderedPass | null>;
  const halves = ofRole('half');
  const besides = ofRole('light', 'albedo', 'normal', 'depth', 'motion', 'occlusion', 'matte', 'id');
  const fileOf = (ordered: OrderedPass | null | undefined, frame: number) => (ordered ? (files.get(ordered.pass.name)!.get(frame) ?? null) : null);
  const numbers = [...new Set(colours.flatMap(({ pass }) => [...files.get(pass.name)!.keys()]))].sort((a, b) => a - b);
  return {
    passes: colours.map(({ pass }) => pass.name),
    frames: numbers.map((frame) => {
      const lights = ofRole('light').map((light) => {
        const file = fileOf(light, frame);
        return file && { ...file, pass: light.pass.name };
      });
      const [first, second] = [fileOf(halves[0], frame), fileOf(halves[1], frame)];
      return {
        frame,
        colours: Object.fromEntries(
          colours.flatMap((ordered) => {
            const file = fileOf(ordered, frame);
            return file ? [[ordered.pass.name, file] as const] : [];
          }),
        ),
        features: Object.fromEntries(featureRoles.map((role) => [role, fileOf(helping[role], frame)])) as Record<FeatureRole, PassFile | null>,
        beside: Object.fromEntries(
          besides.flatMap(({ pass }) => {
            const file = files.get(pass.name)!.get(frame);
            return file ? [[pass.name, { ...file, role: pass.role! }] as const] : [];
          }),
        ),
        whole: ofRole('beauty')[0]?.pass.name ?? null,
        lights: lights.length > 0 && lights.every((file) => file !== null) ? lights : [],
        halves: halves.length === 2 && first && second ? [first, second] : null,
      };
    }),
  };
}

/** The file of each frame that a pass shows; one that lives in another's files has those. */
function filesOf({ pass, owner }: OrderedPass, order: Order, table: FileTable): Map<number, PassFile> {
  return new Map(
    shownRows(table, order.passes[owner]!).map((row) => [
      table.frame[row]!,
      { path: table.path[row]!, modified: table.modified[row]!, channels: pass.channels ?? null },
    ]),
  );
}
