/** Which of the two readings of a sheet is shown: part of the address, so that Back and a reload keep it. */
import { RadioGroup } from 'radix-ui';
import { useSearchParams } from 'react-router';

const PARAMETER = 'reading';

/** @returns whether the Overview is shown, and how to change that */
export function useOverview(): readonly [boolean, (on: boolean) => void] {
  const [search, setSearch] = useSearchParams();
  const set = (on: boolean) =>
    setSearch((before) => {
      const next = new URLSearchParams(before);
      if (on) next.set(PARAMETER, 'overview');
      else next.delete(PARAMETER);
      return next;
    });
  return [search.get(PARAMETER) === 'overview', set];
}

export function SheetOrOverview() {
  const [overview, setOverview] = useOverview();
  const choice = (value: string, words: string) => (
    <RadioGroup.Item value={value} title={`${words}  M`} className="segment">
      {words}
    </RadioGroup.Item>
  );
  return (
    <RadioGroup.Root
      aria-label="How the sheet is read"
      className="flex items-center gap-0.5"
      orientation="horizontal"
      value={overview ? 'overview' : 'sheet'}
      onValueChange={(value) => setOverview(value === 'overview')}
    >
      {choice('sheet', 'Sheet')}
      {choice('overview', 'Overview')}
    </RadioGroup.Root>
  );
}
