/** Choosing what an input reads: strands above, or a value of its own; and making a dial of it. */
import { Link2, ListFilter } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { strandsOf, type Effect, type Input, type Link, type Strand } from '../../../core/effect/schema.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import { kindOfLink } from '../../../core/lower/program.js';
import { inputLabel, takesAs, type InputRecord } from '../../../core/operators/record.js';
import { link, toggleDial } from '../../../session/actions.js';
import { useBench, useBenchState } from '../context.js';

const PARTS = { '2': ['x', 'y'], '3': ['x', 'y', 'z'], '4': ['x', 'y', 'z', 'w'], rgb: ['r', 'g', 'b'], '1': [] } as const;

interface Props {
  readonly effect: Effect;
  readonly strand: string;
  readonly name: string;
  readonly record: InputRecord;
  readonly input: Input | undefined;
  readonly isDial: boolean;
}

export function LinkMenu({ effect, strand, name, record, input, isDial }: Props) {
  const session = useBench();
  const program = useBenchState((s) => s.program);
  const strands = strandsOf(effect);
  const above = strands.slice(
    0,
    strands.findIndex((s) => s.id === strand),
  );
  const linked = input !== undefined && 'from' in input;
  /** What can be read of a strand: itself or its components, and each of its further outputs. */
  const choicesOf = (source: Strand): { text: string; link: Link }[] =>
    operatorOf(source.op).outputs.flatMap(({ id: output }, k) => {
      const port = k === 0 ? {} : { port: output };
      const kind = (program && kindOfLink(program, { from: source.id, ...port })) ?? '1';
      const words = source.name + (k === 0 ? '' : ` ${output}`);
      if (takesAs(record, kind) !== 'no') return [{ text: words, link: { from: source.id, ...port } }];
      // A channel that has an output of its own needs no second way to it.
      if (k > 0) return [];
      return PARTS[kind].map((part) => ({ text: `${words}.${part}`, link: { from: source.id, part } }));
    });
  // What rests on a place has no number to turn.
  const canDial = !linked && (input !== undefined || !(typeof record.default === 'object' && 'leaf' in record.default));
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <button
          className="plain"
          aria-label={`${inputLabel(name)}: link or make a dial`}
          title={`What ${inputLabel(name)} reads`}
        >
          {linked ? <Link2 size={14} strokeWidth={1.5} aria-hidden /> : <ListFilter size={14} strokeWidth={1.5} aria-hidden />}
        </button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className="menu min-w-[200px]" align="end" sideOffset={4} collisionPadding={8}>
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
          {above.length > 0 && <DropdownMenu.Label className="menu-label">Read a strand above</DropdownMenu.Label>}
          {[...above].reverse().flatMap((source) =>
            choicesOf(source).map(({ text, link: to }) => (
              <DropdownMenu.Item
                key={`${source.id} ${text}`}
                className="menu-item"
                onSelect={() => link(session, strand, name, to)}
              >
                {text}
              </DropdownMenu.Item>
            )),
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
