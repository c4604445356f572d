/** The title of a section: a press folds it, a double press renames it. */
import { ChevronRight } from 'lucide-react';
import { useState } from 'react';
import { addSection } from '../../../core/effect/edits.js';
import { useBench } from '../../context.js';
import type { Item } from './layout.js';

type Section = Extract<Item, { type: 'section' }>;

export function SectionRow({ item, onFold }: { item: Section; onFold: () => void }) {
  const session = useBench();
  const [titling, setTitling] = useState(false);
  const keep = (title: string) => {
    setTitling(false);
    if (title && title !== item.title)
      session.documents.edit('Rename a section', (draft) => addSection(draft, { title, first: item.first }));
  };
  return (
    <div role="row" className="absolute right-3 left-11 flex items-center gap-2" style={{ top: item.y, height: item.height }}>
      <span role="gridcell" className="flex grow items-center gap-2">
        {titling ? (
          <input
            autoFocus
            className="field head h-[22px] w-[160px] px-1 text-[13px]"
            aria-label="Title of the section"
            defaultValue={item.title}
            maxLength={80}
            onFocus={(e) => e.currentTarget.select()}
            onKeyDown={(e) => {
              e.stopPropagation();
              if (e.key === 'Enter') e.currentTarget.blur();
              if (e.key === 'Escape') setTitling(false);
            }}
            onBlur={(e) => keep(e.currentTarget.value.trim())}
          />
        ) : (
          <button
            className="head flex min-h-6 items-center rounded-sm text-[13px] leading-5"
            aria-expanded={!item.folded}
            title="Fold; double-click to rename"
            onClick={onFold}
            onDoubleClick={() => setTitling(true)}
          >
            {item.folded && <ChevronRight size={14} strokeWidth={1.5} className="-ml-0.5 text-muted" aria-hidden />}
            {item.title}
            {item.folded && <span className="ml-1.5 text-[12px] font-normal text-muted">{item.count}</span>}
          </button>
        )}
        <span className="h-px grow bg-line" />
      </span>
    </div>
  );
}
