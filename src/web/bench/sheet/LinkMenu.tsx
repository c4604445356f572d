/** Choosing what an input reads: strands above, or a value of its own; and making a dial of it. */
import { Link2, ListFilter } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { strandsOf, type Effect, type Input } from '../../../core/effect/schema.js';
import { goesInto } from '../../../core/base/kinds.js';
import type { InputRecord } from '../../../core/operators/record.js';
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
  const readings = useBenchState((s) => s.readings);
  const strands = strandsOf(effect);
  const above = strands.slice(
    0,
    strands.findIndex((s) => s.id === strand),
  );
  const linked = input !== undefined && 'from' in input;
  const fits = (id: string) => {
    const kind = readings.get(id)?.kind ?? '1';
    return (
      record.kind === 'any' ||
      (typeof record.kind === 'string' ? goesInto(kind, record.kind) : record.kind.some((k) => goesInto(kind, k)))
    );
  };
  const canDial = !linked && typeof record.default !== 'object';
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <button className="plain" aria-label={`${name}: link or make a dial`} title={`What ${name} reads`}>
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
          {[...above].reverse().map((s) => {
            const kind = readings.get(s.id)?.kind ?? '1';
            const whole = fits(s.id);
            const parts = whole ? [] : PARTS[kind];
            return (
              <div key={s.id}>
                {whole ? (
                  <DropdownMenu.Item className="menu-item" onSelect={() => link(session, strand, name, { from: s.id })}>
                    {s.name}
                  </DropdownMenu.Item>
                ) : (
                  parts.map((p) => (
                    <DropdownMenu.Item
                      key={p}
                      className="menu-item"
                      onSelect={() => link(session, strand, name, { from: s.id, part: p })}
                    >
                      {s.name}.{p}
                    </DropdownMenu.Item>
                  ))
                )}
              </div>
            );
          })}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
