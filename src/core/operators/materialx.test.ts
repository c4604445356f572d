/**
 * What operators are in MaterialX, held to the node definitions of MaterialX 1.39.5 as three.js ships them
 * (examples/jsm/loaders/materialx/MaterialXNodeInterfaceRegistry.js).
 */
// @ts-expect-error it has no types of its own
import registry from 'three/examples/jsm/loaders/materialx/MaterialXNodeInterfaceRegistry.js';
import { OPERATORS } from './catalogue.js';

interface NodeDef {
  readonly node: string;
  readonly inputs: Readonly<Record<string, { readonly type: string }>>;
}
const definitions = Object.values((registry as { nodedefs: Record<string, NodeDef> }).nodedefs);
const known = OPERATORS.flatMap((o) => (o.materialx ? [{ o, twin: o.materialx }] : []));
const shapes = (node: string) => definitions.filter((d) => d.node === node);

test('each names a standard node, no two the same', () => {
  expect(known.length).toBeGreaterThan(40);
  expect(known.filter(({ twin }) => shapes(twin.node).length === 0).map(({ o }) => o.id)).toEqual([]);
  expect(new Set(known.map(({ twin }) => twin.node)).size).toBe(known.length);
});

test.each(known.map(({ o, twin }) => [o.id, o, twin] as const))('%s: its inputs are the node’s', (_, o, twin) => {
  for (const [ours, theirs] of Object.entries(twin.inputs)) {
    expect([ours, Object.hasOwn(o.inputs, ours)]).toEqual([ours, true]);
    expect([theirs, shapes(twin.node).every((d) => Object.hasOwn(d.inputs, theirs))]).toEqual([theirs, true]);
  }
  // Every input of ours has a name there: nothing is left over that the node would not know.
  expect(Object.keys(o.inputs).filter((name) => !Object.hasOwn(twin.inputs, name))).toEqual([]);
});
