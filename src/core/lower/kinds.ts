/** Fitting what is given to the kinds that are taken: a strand's free inputs are unified to the widest of them. */
import { goesInto, kindInWords, kindOfWidth, widthOfKind, type Kind } from '../base/kinds.js';
import { widthOf, type Node } from '../ir/types.js';
import type { InputRecord, OperatorRecord } from '../operators/record.js';
import type { Port } from './program.js';

export type Given = Readonly<Record<string, Port | undefined>>;

/** The kinds that an input takes, in words. */
export function takes({ kind }: Pick<InputRecord, 'kind'>): string {
  if (kind === 'any') return 'any number, vector or colour';
  return typeof kind === 'string' ? kindInWords(kind) : kind.map(kindInWords).join(' or ');
}

export interface Unified {
  readonly kind: Kind;
  /** The input that is as wide as that; null where none is free. */
  readonly leader: string | null;
}

/** What the free inputs of a strand become together. */
export function unified(operator: OperatorRecord, given: Given): Unified {
  let widest = 1;
  let leader: string | null = null;
  let colours = false;
  for (const name in operator.inputs) {
    const port = given[name];
    if (!port || operator.inputs[name]!.kind !== 'any') continue;
    const width = widthOfKind(port.kind);
    if (leader === null || width > widest) leader = name;
    widest = Math.max(widest, width);
    colours ||= port.kind === 'rgb';
  }
  return { kind: widest === 3 && colours ? 'rgb' : kindOfWidth(widest), leader };
}

/** The kind that an input brings this one to; undefined where it takes none such. */
export function fitting({ kind }: Pick<InputRecord, 'kind'>, given: Kind, unifiedKind: Kind): Kind | undefined {
  const wanted =
    kind === 'any'
      ? unifiedKind
      : typeof kind === 'string'
        ? kind
        : kind.includes(given)
          ? given
          : kind.find((k) => goesInto(given, k));
  return wanted && goesInto(given, wanted) ? wanted : undefined;
}

/** The kind of one of a strand's outputs. @param node what has been made of it @param kinds of the inputs given */
export function outputKind(
  { kind }: OperatorRecord['outputs'][number],
  node: Node | undefined,
  kinds: Readonly<Record<string, Kind>>,
  unifiedKind: Kind,
): Kind {
  if (kind === 'any') return unifiedKind;
  if (kind === 'own') return kindOfWidth(node ? widthOf(node.type) : 1);
  return typeof kind === 'function' ? kind(kinds) : kind;
}
