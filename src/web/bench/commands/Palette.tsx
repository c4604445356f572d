/** The palette: anything that can be done on the bench, by a few letters of its name. */
import { Command as List } from 'cmdk';
import { Dialog } from 'radix-ui';
import { useMemo } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { ownKeys } from '../../ui/keys.js';
import { useBench } from '../../context.js';
import { useOverview } from '../overview/SheetOrOverview.js';
import { answers, commandsOf, type Command } from './commands.js';

const ON_ROWS: ReadonlySet<Command['group']> = new Set(['Strand', 'Sheet', 'Go to']);

export function Palette({ open, onOpen }: { open: boolean; onOpen: (open: boolean) => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpen}>
      <Dialog.Portal>
        <Dialog.Content
          aria-describedby={undefined}
          className="menu fixed top-[72px] left-1/2 flex w-[480px] -translate-x-1/2 flex-col overflow-hidden p-2"
          onKeyDown={ownKeys}
          // What was done may have sent the focus elsewhere: to a name, to the picker, to a row.
          onCloseAutoFocus={(e) => e.preventDefault()}
        >
          <Dialog.Title className="sr-only">Do something</Dialog.Title>
          <Found onDone={() => onOpen(false)} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Found({ onDone }: { onDone: () => void }) {
  const session = useBench();
  const navigate = useNavigate();
  const { search } = useLocation();
  const [overview, setOverview] = useOverview();
  // As things stand when it opens: nothing changes while it is open.
  const groups = useMemo(() => {
    const all = commandsOf(session, {
      goTo: (path) => navigate(path + search),
      toggleOverview: () => setOverview(!overview),
      showSheet: () => overview && setOverview(false),
    });
    return [...new Set(all.map((c) => c.group))].map((group) => ({ group, commands: all.filter((c) => c.group === group) }));
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [session]);
  const byId = useMemo(() => new Map(groups.flatMap((g) => g.commands.map((c) => [c.id, c] as const))), [groups]);
  const run = (command: Command) => {
    onDone();
    // When the palette is gone, so that what it opens can have the focus.
    requestAnimationFrame(() => {
      command.run();
      // The row that it was about, or that it made, has the focus, unless something has been opened there.
      if (ON_ROWS.has(command.group) && session.store.getState().asked === null) session.store.setState({ asked: 'show' });
    });
  };
  return (
    <List
      label="What to do"
      vimBindings={false}
      className="flex min-h-0 flex-col"
      filter={(id, typed) => {
        const command = byId.get(id);
        return command ? answers(command, typed) : 0;
      }}
    >
      <List.Input
        autoFocus
        placeholder="Type a few letters: duplicate, frame, Rim"
        className="field h-7 shrink-0 px-2 text-[13px]"
      />
      <List.List label="What can be done" className="scroll mt-1 min-h-0 overflow-y-auto">
        <List.Empty className="px-2 py-3 text-muted">Nothing here is called that.</List.Empty>
        {groups.map(({ group, commands }) => (
          <List.Group key={group} heading={group} className="palette-group">
            {commands.map((c) => (
              <List.Item
                key={c.id}
                value={c.id}
                className="menu-item data-[selected=true]:bg-raised data-[selected=true]:shadow-[inset_0_0_0_1px_var(--color-edge)]"
                onSelect={() => run(c)}
              >
                <span className="truncate">{c.title}</span>
                {c.keys && <kbd className="ml-auto">{c.keys}</kbd>}
              </List.Item>
            ))}
          </List.Group>
        ))}
      </List.List>
    </List>
  );
}
