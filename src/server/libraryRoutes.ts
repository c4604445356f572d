/** The HTTP interface to what effects share: dials, and motifs. */
import { createHash } from 'node:crypto';
import { json, type Request, type Router } from 'express';
import { Op } from 'sequelize';
import { whatIsUnwholesome } from '../core/base/wholesome.js';
import { readMotif } from '../core/effect/motifFile.js';
import { sharedSchema, type Motif } from '../core/effect/schema.js';
import type { Database } from '../store/database.js';
import { DocumentRow, MotifRow, SharedRow } from '../store/rows.js';
import { fail } from './fail.js';

/** Names what something is now: whoever changes it says what it was changed from (RFC 9110, 8.8.3 and 13.1). */
const tagOf = (text: string): string => `"${createHash('sha256').update(text).digest('hex').slice(0, 32)}"`;

/** Whether it has become another since whoever asks saw it. One who saw none and finds one has not seen it. */
function changedSince(req: Pick<Request, 'get'>, tag: string): boolean {
  const seen = req.get('If-Match');
  return req.get('If-None-Match') === '*' || (seen !== undefined && seen !== '*' && seen !== tag);
}

export function sharedRoutes(router: Router, db: Database): void {
  router.get('/shared', async (_req, res) => {
    const rows = await SharedRow.findAll({ order: ['name'] });
    res.json(
      rows.map(({ id, name, value }) => ({ id, name, value: JSON.parse(value) as unknown, tag: tagOf(`${name} ${value}`) })),
    );
  });
  router.get('/shared/readers', async (_req, res) => {
    const rows = await SharedRow.findAll({ attributes: ['id'] });
    res.json(rows.length === 0 ? {} : Object.fromEntries(await naming(rows.map((row) => row.id))));
  });
  router.delete('/shared/:id', async (req: Request<{ id: string }>, res) => {
    const readers = (await naming([req.params.id])).get(req.params.id)!;
    if (readers.length > 0) return fail(res, 409, `It is read by ${readers.map((e) => e.name).join(', ')}: what is read stays.`);
    const gone = await db.write(() => SharedRow.destroy({ where: { id: req.params.id } }));
    if (gone === 0) return fail(res, 404, 'There is no such shared dial.');
    res.json({ ok: true });
  });
  router.put('/shared/:id', json({ limit: '64kb' }), async (req: Request<{ id: string }>, res) => {
    const read = sharedSchema.safeParse(req.body);
    if (whatIsUnwholesome(req.body) !== null || !read.success || read.data.id !== req.params.id)
      return fail(res, 400, 'A shared dial is an id, a name and a value of a kind that effects know.');
    const { id, name } = read.data;
    const value = JSON.stringify(read.data.value);
    const there = await db.write(async () => {
      const row = await SharedRow.findByPk(id);
      if (row && changedSince(req, tagOf(`${row.name} ${row.value}`))) return row;
      await SharedRow.upsert({ id, name, value });
      return null;
    });
    if (there)
      return fail(res, 412, `${there.name} was turned elsewhere meanwhile.`, {
        dial: { id, name: there.name, value: JSON.parse(there.value) as unknown, tag: tagOf(`${there.name} ${there.value}`) },
      });
    const tag = tagOf(`${name} ${value}`);
    res.set('ETag', tag).json({ ok: true, tag });
  });
}

type Reader = { readonly id: string; readonly name: string };

/** Effects that name one of some things by its id, by id and name: each of them is looked through once. */
async function naming(ids: readonly string[]): Promise<Map<string, Reader[]>> {
  const found = new Map<string, Reader[]>(ids.map((id) => [id, []]));
  // What names something says it so, whatever it names: one question, however many are asked for.
  const rows = await DocumentRow.findAll({
    attributes: ['id', 'name', 'document'],
    where: { format: 'effect', archived: false, document: { [Op.substring]: '{"text":' } },
    order: ['name'],
  });
  for (const { id: effect, name, document } of rows) {
    const said = new Set(
      [...document.matchAll(/\{"text":("(?:[^"\\]|\\.)*")\}/g)].map(([, text]) => JSON.parse(text!) as string),
    );
    for (const id of said) found.get(id)?.push({ id: effect, name });
  }
  return found;
}

/** @param shipped motifs that come with it, which nobody changes */
export function motifRoutes(router: Router, db: Database, shipped: readonly Motif[]): void {
  const isShipped = (id: string) => shipped.some((m) => m.id === id);
  router.get('/motifs', async (_req, res) => {
    const rows = await MotifRow.findAll({ order: ['name'] });
    const own = rows.map(({ document }) => ({ motif: JSON.parse(document) as Motif, shipped: false, tag: tagOf(document) }));
    const all = [...shipped.map((motif) => ({ motif, shipped: true })), ...own];
    const readers = await naming(all.map((m) => m.motif.id));
    res.json(all.map((m) => ({ ...m, usedBy: readers.get(m.motif.id) })));
  });
  router.put('/motifs/:id', async (req: Request<{ id: string }>, res) => {
    if (isShipped(req.params.id))
      return fail(res, 403, 'This motif ships with Wispen and stays as it is: make one of your own of its strands.');
    const read = whatIsUnwholesome(req.body) === null ? readMotif(req.body) : null;
    if (!read?.ok || read.motif.id !== req.params.id)
      return fail(
        res,
        400,
        (read && !read.ok ? read.problems[0]?.message : undefined) ?? 'A motif has an id, a name and strands.',
      );
    const { id, name } = read.motif;
    const document = JSON.stringify(read.motif);
    const there = await db.write(async () => {
      const row = await MotifRow.findByPk(id);
      if (row && row.document !== document && changedSince(req, tagOf(row.document))) return row;
      await MotifRow.upsert({ id, name, document });
      return null;
    });
    if (there)
      return fail(res, 412, `${there.name} was changed elsewhere meanwhile.`, {
        motif: JSON.parse(there.document) as unknown,
        tag: tagOf(there.document),
      });
    const tag = tagOf(document);
    res.set('ETag', tag).json({ ok: true, tag });
  });
  router.delete('/motifs/:id', async (req: Request<{ id: string }>, res) => {
    if (isShipped(req.params.id)) return fail(res, 403, 'This motif ships with Wispen and stays.');
    const gone = await db.write(() => MotifRow.destroy({ where: { id: req.params.id } }));
    if (gone === 0) return fail(res, 404, 'There is no such motif.');
    res.json({ ok: true });
  });
}
