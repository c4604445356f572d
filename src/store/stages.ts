/** Stages as lists show them: whose home they are, whose alone; put away with that effect, and deleted when nobody stands there. */
import { QueryTypes } from 'sequelize';
import { iso, slim } from './cards.js';
import { readCard } from './card.js';
import type { Writer } from './documents.js';
import { DocumentRow } from './rows.js';

interface Home {
  readonly id: string;
  readonly name: string;
  readonly home: string | null;
  readonly archived: 0 | 1;
}

/** Where each effect stands. Only what stages need of effects: their cards are not read here. */
const homes = (): Promise<Home[]> =>
  DocumentRow.sequelize!.query<Home>(
    `SELECT id, name, archived, CASE WHEN json_valid(card) THEN json_extract(card, '$.home') END AS home
     FROM documents WHERE format = 'effect'`,
    { type: QueryTypes.SELECT },
  );

/** The effect whose own a stage is: the only one that stands there, on a stage that was not shipped. */
function ownerOf(stage: string, all: readonly Home[], shipped: ReadonlySet<string>): Home | null {
  const there = all.filter((e) => e.home === stage);
  return there.length === 1 && !shipped.has(stage) ? there[0]! : null;
}

/**
 * The stages that are not put away, by name, each with the effects whose home it is or whom its props wear.
 * @param shipped stages of the demo world: nobody's own
 */
export async function listStages(shipped: ReadonlySet<string>): Promise<object[]> {
  const stages = await slim({ format: 'stage', archived: false }, { order: [['name', 'ASC']] });
  const all = await homes();
  const living = all.filter((e) => !e.archived);
  const names = new Map(living.map((e) => [e.id, e.name]));
  return stages.map((row) => {
    const worn = readCard(row.card).worn.flatMap((id) => names.get(id) ?? []);
    const usedBy = [...new Set([...living.flatMap((e) => (e.home === row.id ? [e.name] : [])), ...worn])].sort();
    const home = living.filter((e) => e.home === row.id).sort((a, b) => (a.name < b.name ? -1 : 1))[0]?.id ?? null;
    const empty = !all.some((e) => e.home === row.id);
    return {
      ...{ id: row.id, name: row.name, updatedAt: iso(row.updatedAt), usedBy, home },
      ...{ own: ownerOf(row.id, all, shipped)?.id ?? null, deletable: empty && !shipped.has(row.id) },
    };
  });
}

/**
 * Puts an effect away, or takes it back, and with it the stage that is its own. Neither is a change: their times stay.
 * @returns whether there is such an effect
 */
export async function archiveEffect(
  db: Writer,
  { id, archived, shipped }: { id: string; archived: boolean; shipped: ReadonlySet<string> },
): Promise<boolean> {
  return db.write(() =>
    db.sequelize.transaction(async (transaction) => {
      const row = await DocumentRow.findOne({ where: { id, format: 'effect' }, transaction });
      if (!row) return false;
      await row.update({ archived }, { silent: true, transaction });
      const stage = readCard(row.card).home;
      if (ownerOf(stage, await homes(), shipped)?.id === id)
        await DocumentRow.update({ archived }, { where: { id: stage, format: 'stage' }, silent: true, transaction });
      return true;
    }),
  );
}

/** Deletes a stage where nobody stands, with its revisions. @returns why not, as a sentence; null when it is done */
export async function deleteStage(db: Writer, id: string, shipped: ReadonlySet<string>): Promise<string | null> {
  return db.write(() =>
    db.sequelize.transaction(async (transaction) => {
      if (shipped.has(id)) return 'A stage that came with Wispen stays.';
      const users = (await homes()).filter((e) => e.home === id);
      if (users.length > 0)
        return `It is the stage of ${users.map((e) => (e.archived ? `${e.name}, which is archived` : e.name)).join(', ')}.`;
      const gone = await DocumentRow.destroy({ where: { id, format: 'stage' }, transaction });
      return gone > 0 ? null : 'There is no stage with this address.';
    }),
  );
}
