/** What the Library shows of each effect. */
import { strandsOf, type Effect } from '../core/effect/schema.js';
import { effectsOn } from '../core/formats/wearing.js';
import type { Stage } from '../core/formats/stage.js';
import { DocumentRow, StripRow } from './database.js';

/** Raised when strips are drawn in another way, so that older ones are drawn again. */
const STRIP_STYLE = 1;

const keyOf = (effect: DocumentRow, stage: DocumentRow | undefined, others: readonly DocumentRow[]): string =>
  [`s${STRIP_STYLE}`, `e${effect.version}`, stage ? `t${stage.version}` : 't0', ...others.map((o) => `o${o.version}`)]
    .join('.')
    .slice(0, 120);

const parse = <T>(row: DocumentRow): T => JSON.parse(row.document) as T;

function neighbours(
  effect: DocumentRow,
  rows: ReadonlyMap<string, DocumentRow>,
): { stage: DocumentRow | undefined; others: DocumentRow[] } {
  const stage = rows.get(parse<Effect>(effect).home?.stage ?? '');
  if (stage?.format !== 'stage') return { stage: undefined, others: [] };
  const others = effectsOn(parse<Stage>(stage))
    .filter((id) => id !== effect.id)
    .flatMap((id) => rows.get(id) ?? []);
  return { stage, others };
}

const byId = (rows: readonly DocumentRow[]) => new Map(rows.map((r) => [r.id, r]));

/** Names the versions of everything that an effect's pictures show. */
export async function stripKey(effect: DocumentRow): Promise<string> {
  const stage = await DocumentRow.findOne({ where: { id: parse<Effect>(effect).home?.stage ?? '', format: 'stage' } });
  const worn = stage ? effectsOn(parse<Stage>(stage)).filter((id) => id !== effect.id) : [];
  const rows = byId(await DocumentRow.findAll({ where: { id: worn }, attributes: ['id', 'version'] }));
  return keyOf(
    effect,
    stage ?? undefined,
    worn.flatMap((id) => rows.get(id) ?? []),
  );
}

export async function listEffects(): Promise<object[]> {
  const rows = await DocumentRow.findAll({ order: [['updatedAt', 'DESC']] });
  const all = byId(rows);
  const strips = new Map((await StripRow.findAll({ attributes: ['documentId', 'key'] })).map((s) => [s.documentId, s.key]));
  return rows
    .filter((row) => row.format === 'effect')
    .map((row) => {
      const effect = parse<Effect>(row);
      const { stage, others } = neighbours(row, all);
      const key = keyOf(row, stage, others);
      return {
        id: row.id,
        name: row.name,
        tags: effect.tags,
        loop: effect.loop,
        kind: effect.kind,
        strands: strandsOf(effect).map((s) => s.name),
        archived: row.archived,
        version: row.version,
        createdAt: row.createdAt.toISOString(),
        updatedAt: row.updatedAt.toISOString(),
        stripKey: key,
        drawn: strips.get(row.id) === key,
      };
    });
}

/** The stages, each with the names of the effects whose home it is or whom its props wear. */
export async function listStages(): Promise<object[]> {
  const rows = await DocumentRow.findAll({ where: { archived: false }, order: [['name', 'ASC']] });
  const effects = rows.filter((r) => r.format === 'effect');
  const names = new Map(effects.map((r) => [r.id, r.name]));
  const homes = new Map<string, Set<string>>();
  for (const row of effects) {
    const stage = parse<Effect>(row).home?.stage;
    if (stage !== undefined) homes.set(stage, (homes.get(stage) ?? new Set()).add(row.name));
  }
  return rows
    .filter((r) => r.format === 'stage')
    .map((row) => {
      const worn = effectsOn(parse<Stage>(row)).flatMap((id) => names.get(id) ?? []);
      const usedBy = [...new Set([...(homes.get(row.id) ?? []), ...worn])].sort();
      return { id: row.id, name: row.name, updatedAt: row.updatedAt.toISOString(), usedBy };
    });
}
