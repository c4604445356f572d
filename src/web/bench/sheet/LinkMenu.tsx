/** Choosing what an input reads: strands above, or a value of its own; and making a dial of it. */
import { Link2, ListFilter } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import type { ReactNode } from 'react';
import { waysInto, type Way } from '../../../core/effect/feeding.js';
import { isColour, isLink, strandsOf, type Effect, type Input, type Strand, type Value } from '../../../core/effect/schema.js';
import { recordOf } from '../../../core/effect/recordOf.js';
import { kindOfLink } from '../../../core/lower/program.js';
import { inputLabel, restsOn, type InputRecord } from '../../../core/operators/record.js';
import { link, read, toggleDial } from '../../../session/actions.js';
import { useBench, useBenchState } from '../../context.js';
import { MenuContent } from '../../ui/Menu.js';

interface Props {
  readonly effect: Effect;
  readonly strand: string;
  readonly name: string;
  readonly record: InputRecord;
  readonly input: Input | undefined;
  readonly isDial: boolean;
  /** What opens it; a button of its own where nothing is given. */
  readonly children?: ReactNode;
}

/** A value of another form, where either is taken: a colour for a number, and back. */
function otherFormOf(record: InputRecord, input: Input | undefined): { text: string; value: Value } | null {
  if (record.kind !== 'any') return null;
  const value = isLink(input) ? undefined : input?.value;
  if (isColour(value)) return { text: 'A number of its own', value: 1 };
  return { text: 'A colour of its own', value: { rgb: [1, 0.72, 0.4], intensity: 1, unit: 'factor' } };
}

export function LinkMenu({ effect, strand, name, record, input, isDial, children }: Props) {
  const session = useBench();
  const program = useBenchState((s) => s.program);
  const strands = strandsOf(effect);
  const above = strands.slice(
    0,
    strands.findIndex((s) => s.id === strand),
  );
  const linked = input !== undefined && 'from' in input;
  /** What can be read of a strand: itself, what brings it here where it is of another kind, and each of its further outputs. */
  const choicesOf = (source: Strand): { text: string; way: Way }[] =>
    recordOf(effect, source).outputs.flatMap(({ id: output, label }, k) => {
      const port = k === 0 ? {} : { port: output };
      const kind = (program && kindOfLink(program, { from: source.id, ...port })) ?? '1';
      const ways = waysInto(record, { from: source.id, ...port }, kind);
      // A channel that has an output of its own needs no second way to it.
      return (k === 0 ? ways : ways.filter((way) => way.text === '')).map((way) => ({
        text: [source.name, ...(k === 0 ? [] : [label ?? output]), way.text].join(' ').trim(),
        way,
      }));
    });
  const choose = (way: Way) =>
    way.through ? read(session, { strand, input: name }, way) : link(session, strand, name, way.link);
  const otherForm = linked ? null : otherFormOf(record, input);
  // What rests on a place has no number to turn.
  const canDial = !linked && (input !== undefined || restsOn(record) === undefined);
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        {children ?? (
          <button
            className="plain"
            aria-label={`${record.label ?? inputLabel(name)}: link or make a dial`}
            title={`What ${record.label ?? inputLabel(name)} reads`}
          >
            {linked ? <Link2 size={14} strokeWidth={1.5} aria-hidden /> : <ListFilter size={14} strokeWidth={1.5} aria-hidden />}
          </button>
        )}
      </DropdownMenu.Trigger>
      <MenuContent className="min-w-[200px]" align="end">
        {(linked || (record.optional && input)) && (
          <DropdownMenu.Item className="menu-item" onSelect={() => link(session, strand, name, undefined)}>
            {record.optional ? 'Leave it out' : 'A value of its own'}
          </DropdownMenu.Item>
        )}
        {record.optional && !input && typeof record.default === 'number' && (
          <DropdownMenu.Item
            className="menu-item"
            onSelect={() => link(session, strand, name, { value: record.default as number })}
          >
            Give it a value
          </DropdownMenu.Item>
        )}
        {canDial && (
          <DropdownMenu.Item className="menu-item" onSelect={() => toggleDial(session, strand, name)}>
            {isDial ? 'Take the dial away' : 'Make a dial'}
          </DropdownMenu.Item>
        )}
        {otherForm && (
          <DropdownMenu.Item className="menu-item" onSelect={() => link(session, strand, name, { value: otherForm.value })}>
            {otherForm.text}
          </DropdownMenu.Item>
        )}
        {above.length > 0 && <DropdownMenu.Label className="menu-label">Read a strand above</DropdownMenu.Label>}
        {[...above].reverse().flatMap((source) =>
          choicesOf(source).map(({ text, way }) => (
            <DropdownMenu.Item key={`${source.id} ${text}`} className="menu-item" onSelect={() => choose(way)}>
              {text}
            </DropdownMenu.Item>
          )),
        )}
      </MenuContent>
    </DropdownMenu.Root>
  );
}
