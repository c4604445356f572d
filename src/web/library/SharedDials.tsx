/** The library's shared dials: their values, who reads them; named, turned and let go here. */
import { Plus, Share2, Trash2 } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useRef, useState } from 'react';
import { useShared, useSharedReaders, type ListedDial } from '../data/library.js';
import { Named } from '../ui/Named.js';
import { NumberField } from '../ui/NumberField.js';
import { PopoverContent } from '../ui/PopoverContent.js';

/** @returns what is wrong; null where it was done */
async function ask(path: string, init: RequestInit): Promise<string | null> {
  const response = await fetch(path, init).catch(() => null);
  if (!response) return 'The server does not answer, so nothing was changed.';
  if (response.ok) return null;
  return ((await response.json().catch(() => ({}))) as { error?: string }).error ?? 'The server refused it.';
}

/** Over the one that is listed: what somebody else made of it meanwhile is not written over. */
const put = ({ tag, ...dial }: ListedDial): Promise<string | null> =>
  ask(`/api/shared/${encodeURIComponent(dial.id)}`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json', ...(tag === undefined ? { 'If-None-Match': '*' } : { 'If-Match': tag }) },
    body: JSON.stringify(dial),
  });

export function SharedDials() {
  const shared = useShared();
  const readers = useSharedReaders();
  const [wrong, setWrong] = useState<string | null>(null);
  const list = shared.data ?? [];
  const change = async (work: Promise<string | null>) => {
    setWrong(await work);
    await Promise.all([shared.mutate(), readers.mutate()]);
  };
  const add = () => {
    const names = new Set(list.map((d) => d.name));
    let k = 1;
    while (names.has(`Shared ${k}`)) k++;
    void change(put({ id: `shared-${crypto.randomUUID().slice(0, 8)}`, name: `Shared ${k}`, value: 1 }));
  };
  return (
    <Popover.Root onOpenChange={(open) => open && void Promise.all([shared.mutate(), readers.mutate()])}>
      <Popover.Trigger asChild>
        <button className="plain px-2">
          <Share2 size={14} strokeWidth={1.5} aria-hidden />
          Shared dials <span className="num">{list.length}</span>
        </button>
      </Popover.Trigger>
      <PopoverContent aria-label="Shared dials" className="w-[420px] p-4" align="end" sideOffset={6}>
        <div className="flex items-baseline justify-between">
          <h2 className="head text-[14px] leading-5">Shared dials</h2>
          <button className="plain px-1 text-ink" onClick={add}>
            <Plus size={14} strokeWidth={1.5} aria-hidden /> New
          </button>
        </div>
        {list.length === 0 && (
          <p className="mt-2 text-muted">None yet. A strand “shared dial” reads one, in as many effects as like to.</p>
        )}
        <ul className="mt-1">
          {list.map((dial) => {
            const who = readers.data?.[dial.id] ?? [];
            return (
              <li
                key={dial.id}
                className="grid grid-cols-[1fr_76px_24px] items-center gap-x-3 border-t border-line py-1.5"
                data-shared={dial.id}
              >
                <Named label={`Name of ${dial.name}`} name={dial.name} onName={(name) => void change(put({ ...dial, name }))} />
                {typeof dial.value === 'number' ? (
                  <Value dial={dial} onSet={(value) => void change(put({ ...dial, value }))} />
                ) : (
                  <span />
                )}
                <button
                  className="plain h-6 w-6"
                  aria-label={`Delete ${dial.name}`}
                  title={who.length > 0 ? 'What is read stays' : 'Delete'}
                  disabled={who.length > 0}
                  onClick={() => void change(ask(`/api/shared/${encodeURIComponent(dial.id)}`, { method: 'DELETE' }))}
                >
                  <Trash2 size={13} strokeWidth={1.5} aria-hidden />
                </button>
                <span className="col-span-3 text-[12px] leading-4 text-muted">
                  {who.length === 0 ? 'not read' : `read by ${who.map((e) => e.name).join(', ')}`}
                </span>
              </li>
            );
          })}
        </ul>
        {wrong && (
          <p role="alert" className="mt-2 text-fault">
            {wrong}
          </p>
        )}
      </PopoverContent>
    </Popover.Root>
  );
}

/** Its number, told to the library when the hand lets go. */
function Value({ dial, onSet }: { dial: ListedDial; onSet: (value: number) => void }) {
  const [turned, setTurned] = useState<number | null>(null);
  // What is typed is taken over and done at once, before it is drawn again.
  const last = useRef<number | null>(null);
  return (
    <NumberField
      label={`${dial.name} value`}
      value={turned ?? (dial.value as number)}
      width={76}
      onChange={(value) => {
        last.current = value;
        setTurned(value);
      }}
      onDone={() => {
        if (last.current !== null) onSet(last.current);
        last.current = null;
        setTurned(null);
      }}
    />
  );
}
