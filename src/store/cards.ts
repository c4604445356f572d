/**
 * What the Library shows of each document. A document's card is made when it is saved; lists read cards, in pages, and
 * no document: a row that is broken shows as such, and hides nothing else.
 */
import { Op, type WhereOptions } from 'sequelize';
import { readCard } from './card.js';
import { DocumentRow, StripRow } from './rows.js';

/** Raised when strips are drawn in another way, so that older ones are drawn again. */
const STRIP_STYLE = 2;

/** Effects of a page of the list, where nothing else is asked for; and at most. */
const PAGE = 500;

const keyOf = (version: number, stage: number | undefined, others: readonly number[]): string =>
  [`s${STRIP_STYLE}`, `e${version}`, stage === undefined ? 't0' : `t${stage}`, ...others.map((o) => `o${o}`)]
    .join('.')
    .slice(0, 120);

/** Rows as SQLite has them: making a model of each takes longer than reading them. */
const SLIM = ['id', 'format', 'name', 'version', 'archived', 'card', 'createdAt', 'updatedAt'];
export const slim = (where: WhereOptions<DocumentRow>, more: object = {}) =>
  DocumentRow.findAll({ where, attributes: SLIM, raw: true, ...more }) as Promise<DocumentRow[]>;

export const iso = (time: unknown): string => new Date(time as string).toISOString();

/** Names the versions of everything that the pictures of effects show. @param effects rows with their cards */
async function keysOf(effects: readonly DocumentRow[]): Promise<Map<string, string>> {
  const homes = [...new Set(effects.map((e) => readCard(e.card).home).filter(Boolean))];
  const stages = new Map(
    (await slim({ id: homes, format: 'stage' })).map((s) => [s.id, { version: s.version, worn: readCard(s.card).worn }]),
  );
  const worn = [...new Set([...stages.values()].flatMap((s) => s.worn))];
  const versions = new Map(
    ((await DocumentRow.findAll({ where: { id: worn }, attributes: ['id', 'version'], raw: true })) as DocumentRow[]).map((r) => [
      r.id,
      r.version,
    ]),
  );
  return new Map(
    effects.map((e) => {
      const stage = stages.get(readCard(e.card).home);
      const others = (stage?.worn ?? []).filter((id) => id !== e.id).flatMap((id) => versions.get(id) ?? []);
      return [e.id, keyOf(e.version, stage?.version, others)];
    }),
  );
}

/** @returns null when there is no such effect */
export async function stripKey(id: string): Promise<string | null> {
  const [effect] = await slim({ id, format: 'effect' });
  return effect ? (await keysOf([effect])).get(id)! : null;
}

/** So many of the last changed effects are looked through. */
const LOOKED = 60;

/** Effects that lack their pictures, the one that was changed last first; archived ones are nobody's concern. */
export async function lackingStrips(most: number): Promise<{ id: string; key: string }[]> {
  const rows = await slim({ format: 'effect', archived: false }, { order: [['updatedAt', 'DESC']], limit: LOOKED });
  const keys = await keysOf(rows);
  const there = await StripRow.findAll({
    where: { documentId: rows.map((r) => r.id) },
    attributes: ['documentId', 'key'],
    raw: true,
  });
  const drawn = new Map(there.map((s) => [s.documentId, s.key]));
  return rows.flatMap(({ id }) => (drawn.get(id) === keys.get(id) ? [] : [{ id, key: keys.get(id)! }])).slice(0, most);
}

/** Where a page ends: the next begins after it. */
export interface PageEnd {
  readonly updatedAt: string;
  readonly id: string;
}

/** Effects, the one that was changed last first. @param after the end of the page before; @param most of a page */
export async function listEffects(after: PageEnd | null = null, most = PAGE): Promise<{ cards: object[]; next: PageEnd | null }> {
  const before = after && new Date(after.updatedAt);
  const beyond = before
    ? { [Op.or]: [{ updatedAt: { [Op.lt]: before } }, { updatedAt: before, id: { [Op.gt]: after.id } }] }
    : {};
  const limit = Math.max(1, Math.min(PAGE, most));
  const rows = await slim(
    { format: 'effect', ...beyond },
    {
      order: [
        ['updatedAt', 'DESC'],
        ['id', 'ASC'],
      ],
      limit: limit + 1,
    },
  );
  const page = rows.slice(0, limit);
  const keys = await keysOf(page);
  const ids = page.map((r) => r.id);
  const strips = new Map(
    (await StripRow.findAll({ where: { documentId: ids }, attributes: ['documentId', 'key'], raw: true })).map((s) => [
      s.documentId,
      s.key,
    ]),
  );
  const cards = page.map((row) => {
    const { tags, loop, kind, strands } = readCard(row.card);
    const key = keys.get(row.id)!;
    return {
      ...{ id: row.id, name: row.name, tags, loop, kind, strands },
      ...{ archived: Boolean(row.archived), version: row.version },
      ...{ createdAt: iso(row.createdAt), updatedAt: iso(row.updatedAt) },
      ...{ stripKey: key, drawn: strips.get(row.id) === key },
    };
  });
  const last = page.at(-1);
  return { cards, next: rows.length > limit && last ? { updatedAt: iso(last.updatedAt), id: last.id } : null };
}
