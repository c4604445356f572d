/** The shared dials that this sheet reads: turned here for every effect of the library that reads them. */
import { Share2 } from 'lucide-react';
import { isLink, isWritten, strandsOf, type Effect } from '../../../core/effect/schema.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import type { InputRecord } from '../../../core/operators/record.js';
import type { SharedDial } from '../../../session/state.js';
import { useSharedReaders } from '../../data/library.js';
import { Named } from '../../ui/Named.js';
import { useBench } from '../../context.js';
import { controlFor } from './DialControls.js';

/** Those that some strand names. */
export function sharedRead(effect: Effect): readonly SharedDial[] {
  const named = new Set(
    strandsOf(effect).flatMap((s) =>
      Object.entries(operatorOf(s.op).literals).flatMap(([name, { form }]) => {
        const given = s.inputs?.[name];
        return form === 'shared' && given && !isLink(given) && isWritten(given.value) ? [given.value.text] : [];
      }),
    ),
  );
  return effect.shared.filter((d) => named.has(d.id) || named.has(d.name));
}

const RECORD: InputRecord = { kind: '1', default: 0, soft: [0, 1], note: 'a value that several effects read' };

/** Who else reads it, in words. */
const others = (names: readonly string[]): string =>
  names.length === 0 ? 'shared; no other effect reads it yet' : `shared with ${names.join(', ')}`;

export function SharedRow({ effect, dial }: { effect: Effect; dial: SharedDial }) {
  const session = useBench();
  const readers = useSharedReaders();
  const { id, name, value } = dial;
  const control = controlFor(effect, {
    ...{
      label: name,
      value,
      dial: { id: `shared ${id}`, strand: '', input: '', label: name },
      record: RECORD,
      base: undefined,
      held: false,
    },
    set: (v) => session.shared.turn(id, v),
    done: () => session.documents.endGesture(),
  });
  if (control === null) return null;
  const under = others((readers.data?.[id] ?? []).filter((e) => e.id !== effect.id).map((e) => e.name));
  return (
    <div
      className="grid h-10 grid-cols-[104px_minmax(56px,1fr)_76px_16px] grid-rows-[24px_16px] items-center gap-x-2.5"
      data-shared={id}
    >
      <span className="flex min-w-0 items-center pl-[11px]">
        <Named label={`Name of ${name}`} name={name} onName={(to) => session.shared.rename(id, to)} />
      </span>
      {control}
      <Share2 size={12} strokeWidth={1.5} className="text-muted" aria-label="shared" />
      <span className="col-span-4 -mt-1 truncate pl-[11px] text-[11px] leading-4 text-muted" title={under}>
        {under}
      </span>
    </div>
  );
}
