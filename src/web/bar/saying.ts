/** A saying stands under the bar, over the picture, whole: another that comes meanwhile goes under it. */
export const SAYING =
  'flex max-w-full flex-wrap items-center gap-x-2 gap-y-1.5 rounded-md border border-edge bg-panel py-1.5 pr-2 pl-3';
