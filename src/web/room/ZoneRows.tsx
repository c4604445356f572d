/** Zones of a stage: boxes within which other optics hold, as the camera comes into them. */
import { ChevronDown, ChevronRight, Plus, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { MAX_ZONES, addZone, changeZone, deleteZone } from '../../core/scene/edits.js';
import { within, type Zone } from '../../core/scene/zones.js';
import { useBench, useBenchState } from '../context.js';
import { OpticsRows } from '../stage/OpticsPanel.js';
import { useStage } from '../stage/useStage.js';
import { SettingRow } from '../ui/SettingRow.js';
import { Three } from '../ui/Three.js';

export function ZonesOfStage() {
  const { frames, store } = useBench();
  const { stage, change } = useStage();
  const [opened, setOpened] = useState<string | null>(null);
  const add = () => {
    if (stage.zones.length >= MAX_ZONES) {
      store.setState({ notice: `A stage has room for ${MAX_ZONES} zones.` });
      return;
    }
    let id = '';
    for (let k = 1; id === '' || stage.zones.some((z) => z.id === id); k++) id = `zone-${k}`;
    // Where one stands: what is turned there is seen at once.
    const eye = frames.view?.looking.view.eye ?? [0, 1, 0];
    change('Add a zone', (d) => addZone(d, { id, place: eye.map((v) => Math.round(v * 100) / 100) as Zone['place'] }));
    setOpened(id);
  };
  return (
    <section aria-label="Zones" className="-mx-4 mt-3 border-t border-line px-4 pt-1">
      <div className="flex h-8 items-center justify-between">
        <h3 className="head text-[13px]">Zones</h3>
        <button className="plain gap-1 px-1" title="A box with other optics, where the camera is" onClick={add}>
          <Plus size={14} strokeWidth={1.5} aria-hidden />
          Add a zone
        </button>
      </div>
      {stage.zones.map((zone) => (
        <ZoneRow key={zone.id} zone={zone} open={opened === zone.id} onOpen={(on) => setOpened(on ? zone.id : null)} />
      ))}
    </section>
  );
}

function ZoneRow({ zone, open, onOpen }: { zone: Zone; open: boolean; onOpen: (on: boolean) => void }) {
  const { frames } = useBench();
  const { change, done } = useStage();
  const { id, name } = zone;
  // Read whenever something of the stage changes, which draws a frame.
  useBenchState((s) => s.samples);
  const eye = frames.view?.looking.view.eye;
  const share = eye ? within(zone, eye) : 0;
  const set = (what: string, to: Partial<Zone>) => change(`${name}: ${what}`, (d) => changeZone(d, { id, to }));
  const Fold = open ? ChevronDown : ChevronRight;
  return (
    <div data-zone={id} className={open ? '-mx-2 rounded-sm bg-raised px-2' : ''}>
      <div className="flex h-8 items-center gap-1">
        <button
          className="plain -ml-1 min-w-0 grow justify-start gap-0.5 px-0"
          aria-expanded={open}
          aria-label={`${name}: settings`}
          onClick={() => onOpen(!open)}
        >
          <Fold size={12} strokeWidth={1.5} className="shrink-0 text-muted" aria-hidden />
          <span className="truncate text-ink">{name}</span>
          <span className="ml-auto shrink-0 text-[12px] text-muted">
            {share > 0 ? `${Math.round(100 * share)} % here` : 'elsewhere'}
          </span>
        </button>
        <button
          className="plain"
          aria-label={`Delete ${name}`}
          title="Delete"
          onClick={() => change(`Delete ${name}`, (d) => deleteZone(d, { id }))}
        >
          <Trash2 size={14} strokeWidth={1.5} aria-hidden />
        </button>
      </div>
      {open && (
        <div className="pb-1 pl-3">
          <Three
            label={`${name} place`}
            name="Place, m"
            values={zone.place}
            onChange={(place) => set('place', { place })}
            onDone={done}
          />
          <Three
            label={`${name} size`}
            name="Size, m"
            values={zone.size}
            low={0.01}
            onChange={(size) => set('size', { size })}
            onDone={done}
          />
          <SettingRow
            label="Blends over"
            value={zone.blend}
            unit="m"
            soft={[0, 2]}
            hard={[0, 1000]}
            onChange={(blend) => set('blend', { blend })}
            onDone={done}
          />
          <OpticsRows
            optics={zone.optics}
            onChange={(label, recipe) =>
              change(`${name}: ${label}`, (d) => {
                const own = d.zones.find((z) => z.id === id);
                if (own) recipe(own.optics);
              })
            }
            onDone={done}
          />
        </div>
      )}
    </div>
  );
}
