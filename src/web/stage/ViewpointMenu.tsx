/** From where the stage is seen: the viewpoints that it has, and keeping what is seen now as one of them. */
import { Camera, Check } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { deleteViewpoint, freshViewpoint, setViewpoint } from '../../core/scene/edits.js';
import { useBench, useBenchState } from '../context.js';
import { MenuContent } from '../ui/Menu.js';

/** What may be done with what is seen now. */
function useKeeping() {
  const { frames, documents } = useBench();
  const viewpoints = useBenchState((s) => s.stage.viewpoints);
  const viewpoint = useBenchState((s) => s.viewpoint);
  const chosen = viewpoints.find((v) => v.id === viewpoint);
  const drawnFrom = useBenchState((s) => s.effect.home?.viewpoint);
  /** @returns its id */
  const keep = (): string | null => {
    const seen = frames.view?.looking.view;
    if (!seen) return null;
    const made = { ...freshViewpoint(viewpoints), lensBend: chosen?.lensBend ?? 0, ...seen };
    documents.editStage(`Keep ${made.name}`, (d) => setViewpoint(d, { viewpoint: made }));
    frames.lookFrom(made.id);
    return made.id;
  };
  // Where one has gone from the viewpoint, what is seen is kept first.
  const forLibrary = () => {
    const seen = frames.view?.looking.view;
    const moved =
      !seen || !chosen || (['eye', 'target'] as const).some((at) => seen[at].some((v, k) => Math.abs(v - chosen[at][k]!) > 1e-3));
    const id = moved ? keep() : chosen.id;
    if (id !== null)
      documents.edit('Draw it so in the Library', (d) => {
        if (d.home) d.home.viewpoint = id;
      });
  };
  const replace = () => {
    const seen = frames.view?.looking.view;
    if (!seen || !chosen) return;
    documents.editStage(`Replace ${chosen.name}`, (d) => setViewpoint(d, { viewpoint: { ...chosen, ...seen } }));
    frames.lookFrom(chosen.id);
  };
  const drop = () => {
    if (!chosen) return;
    documents.editStage(`Delete ${chosen.name}`, (d) => deleteViewpoint(d, { id: chosen.id }));
    frames.lookFrom(viewpoints.find((v) => v.id !== chosen.id)!.id);
  };
  return { viewpoints, chosen, drawnFrom, keep, forLibrary, replace, drop, lookFrom: (id: string) => frames.lookFrom(id) };
}

export function ViewpointMenu() {
  const { viewpoints, chosen, drawnFrom, keep, forLibrary, replace, drop, lookFrom } = useKeeping();
  const away = useBenchState((s) => s.away);
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <button className="stage-chip min-w-0" aria-label={`Viewpoint: ${away ? 'from ' : ''}${chosen?.name ?? 'Viewpoint'}`}>
          <Camera size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
          <span
            className={`truncate ${away ? 'text-muted' : ''}`}
            title={away ? `Gone on from ${chosen?.name ?? 'it'}: V goes back` : chosen?.name}
          >
            {away ? 'from ' : ''}
            {chosen?.name ?? 'Viewpoint'}
          </span>
        </button>
      </DropdownMenu.Trigger>
      <MenuContent className="min-w-[200px]">
        <DropdownMenu.RadioGroup value={chosen?.id ?? ''} onValueChange={lookFrom}>
          {viewpoints.map((v) => (
            <DropdownMenu.RadioItem key={v.id} value={v.id} className="menu-item data-[state=checked]:font-medium">
              <span className="flex w-3 justify-center">
                <DropdownMenu.ItemIndicator>
                  <Check size={12} strokeWidth={2} aria-hidden />
                </DropdownMenu.ItemIndicator>
              </span>
              {v.name}
              {v.id === drawnFrom && <span className="ml-auto text-muted">Library</span>}
            </DropdownMenu.RadioItem>
          ))}
        </DropdownMenu.RadioGroup>
        <DropdownMenu.Separator className="my-1 h-px bg-line" />
        <DropdownMenu.Item className="menu-item" onSelect={() => void keep()}>
          Keep as a new viewpoint
        </DropdownMenu.Item>
        <DropdownMenu.Item className="menu-item" onSelect={forLibrary}>
          Draw it so in the Library
        </DropdownMenu.Item>
        {chosen && (
          <DropdownMenu.Item className="menu-item" onSelect={replace}>
            Replace {chosen.name}
          </DropdownMenu.Item>
        )}
        {chosen && viewpoints.length > 1 && (
          <DropdownMenu.Item className="menu-item" onSelect={drop}>
            Delete {chosen.name}
          </DropdownMenu.Item>
        )}
      </MenuContent>
    </DropdownMenu.Root>
  );
}
