import useSWRImmutable from 'swr/immutable';
import { own } from '../../core/base/wholesome.js';
import { partNames } from '../../core/mesh/parts.js';
import { namedParts } from '../../core/scene/pieces.js';
import type { Prop } from '../../core/scene/stage.js';
import { meshOf } from '../../session/meshes.js';
import { useBenchState } from '../context.js';

export interface NamedPart {
  readonly name: string;
  /** Its mesh has it; what was said of a part that it does not have is kept. */
  readonly there: boolean;
}

const NONE: readonly NamedPart[] = [];

/** What a prop can be parted into, by what it is made of; none where it is all of one, or not at hand yet. */
export function usePartNames(prop: Pick<Prop, 'source' | 'parts'>): readonly NamedPart[] {
  const { source } = prop;
  const sum = useBenchState((s) => ('asset' in source ? (own(s.stage.assets, source.asset)?.sha256 ?? null) : null));
  const { data } = useSWRImmutable(sum === null ? null : ['parts', sum], async () => [...new Set(partNames(await meshOf(sum!)))]);
  if (!data) return NONE;
  const gone = namedParts(prop).flatMap(({ part }) => (data.includes(part) ? [] : [{ name: part, there: false }]));
  return [...(data.length > 1 ? data.map((name) => ({ name, there: true })) : []), ...gone];
}
