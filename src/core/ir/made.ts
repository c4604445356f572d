/** Nodes as they are made: of one shape, and what tells them apart. */
import { charsHash, numbersHash } from '../base/digest.js';
import type { Node, Op, Type } from './types.js';

/** What a node has besides its operation, type and arguments. */
export type Extra = Partial<Pick<Node, 'values' | 'index' | 'leaf' | 'lanes' | 'kernel' | 'loop' | 'image' | 'table'>>;

/** All nodes are of one shape, so that whoever reads them reads them fast. */
export class Made implements Node {
  readonly values: Node['values'];
  readonly index: Node['index'];
  readonly leaf: Node['leaf'];
  readonly lanes: Node['lanes'];
  readonly kernel: Node['kernel'];
  readonly loop: Node['loop'];
  readonly image: Node['image'];
  readonly table: Node['table'];
  constructor(
    readonly id: number,
    readonly op: Op,
    readonly type: Type,
    readonly args: readonly Node[],
    extra: Extra | null,
  ) {
    this.values = extra?.values;
    this.index = extra?.index;
    this.leaf = extra?.leaf;
    this.lanes = extra?.lanes;
    this.kernel = extra?.kernel;
    this.loop = extra?.loop;
    this.image = extra?.image;
    this.table = extra?.table;
  }
}

export function same<T>(a: readonly T[] | undefined, b: readonly T[] | undefined): boolean {
  if (a === b) return true;
  if (!a || !b || a.length !== b.length) return false;
  // Signs of zeros count, and what is no number equals itself.
  for (let k = 0; k < a.length; k++) if (!Object.is(a[k], b[k])) return false;
  return true;
}

/** Whether a node of the same operation is told apart by nothing. */
export function sameExtra(node: Node, extra: Extra): boolean {
  return (
    node.index === extra.index &&
    node.leaf === extra.leaf &&
    node.kernel?.name === extra.kernel?.name &&
    node.loop?.content === extra.loop?.content &&
    same(node.values, extra.values) &&
    same(node.lanes, extra.lanes) &&
    node.image?.asset === extra.image?.asset &&
    node.image?.wrap === extra.image?.wrap &&
    node.image?.filter === extra.image?.filter &&
    node.table?.at === extra.table?.at &&
    node.table?.count === extra.table?.count &&
    node.table?.width === extra.table?.width
  );
}

/** A hash of what tells a node apart besides its operation and arguments; equal for equal extras. */
export function extraHash({ values, index, leaf, lanes, kernel, loop, image, table }: Extra): number {
  if (values) return numbersHash(values);
  if (index !== undefined) return index;
  if (lanes) return numbersHash(lanes);
  if (table) return numbersHash([table.at, table.count, table.width]);
  return charsHash(leaf ?? kernel?.name ?? loop?.content ?? image?.asset ?? '');
}

export function allKnown(nodes: readonly Node[]): boolean {
  for (let k = 0; k < nodes.length; k++) if (nodes[k]!.op !== 'const') return false;
  return true;
}

/** A component of a constant; 0 for an argument that an operation does not have. */
export function laneOf(node: Node | undefined, lane: number): number {
  const values = node?.values;
  return values ? values[values.length === 1 ? 0 : lane]! : 0;
}

export function isAll(node: Node | undefined, value: number): boolean {
  if (node?.op !== 'const') return false;
  for (const v of node.values!) if (v !== value) return false;
  return true;
}
