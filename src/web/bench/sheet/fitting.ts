/**
 * How a row's line is shared out: its columns stand where they always do while there is room, a long name or operation
 * pushes what is right of it, and inputs are left out, the least telling last, before anything is cut.
 */

/** Where the columns stand by themselves, in pixels. */
export const NAME = 86;
const OPERATION = 158;
const INPUTS = 222;
const GAP = 8;
/** Between two inputs; and with a sign between them. */
const BETWEEN = 5;
const AROUND_SIGN = 16;
/** A count of what is left out. */
const MORE = 20;
/** What a first input, a name and an operation keep when there is not room for all. */
const LEAST_INPUT = 72;
const LEAST_NAME = 60;
const LEAST_OPERATION = 44;

export interface Measured {
  readonly name: number;
  /** 0 where the operation is told by the sign between its inputs. */
  readonly operation: number;
  readonly sign: boolean;
  /** The name says the operation already. */
  readonly twice: boolean;
  /** Of each input, without its label and with it; in the order in which they matter. */
  readonly inputs: readonly { readonly bare: number; readonly labelled: number }[];
  /** Where what stands at the right begins. */
  readonly right: number;
}

export interface Fitted {
  readonly name: number;
  readonly operation: { readonly left: number; readonly width: number };
  readonly inputs: number;
  readonly room: number;
  /** How many inputs are shown, and which of those with their labels. */
  readonly shown: number;
  readonly labelled: readonly boolean[];
}

/** How many of the inputs there is room for, one at least. */
function countIn(room: number, widths: readonly number[], between: number): number {
  let used = 0;
  for (let k = 0; k < widths.length; k++) {
    used += widths[k]! + (k > 0 ? between : 0);
    const more = k < widths.length - 1 ? MORE : 0;
    if (used + more > room) return Math.max(1, k);
  }
  return widths.length;
}

export function fitRow({ name, operation, sign, twice, inputs, right }: Measured): Fitted {
  const between = sign ? AROUND_SIGN : BETWEEN;
  const place = (nameWidth: number, operationWidth: number) => {
    const left = Math.max(OPERATION, NAME + nameWidth + GAP);
    const first = sign ? left : Math.max(INPUTS, left + operationWidth + GAP);
    return { left, first, room: right - first };
  };
  // The first input is always told, with a count of the others.
  const least = inputs.length === 0 ? 0 : Math.min(inputs[0]!.bare, LEAST_INPUT) + (inputs.length > 1 ? MORE : 0);
  let [nameWidth, operationWidth] = [name, operation];
  const lacking = () => least - place(nameWidth, operationWidth).room;
  if (lacking() > 0 && twice) operationWidth = 0;
  if (lacking() > 0) operationWidth = Math.max(Math.min(operationWidth, LEAST_OPERATION), operationWidth - lacking());
  if (lacking() > 0) nameWidth = Math.max(Math.min(name, LEAST_NAME), nameWidth - lacking());
  const { left, first, room } = place(nameWidth, operationWidth);
  const bare = inputs.map((i) => i.bare);
  const shown = countIn(room, bare, between);
  return {
    name: nameWidth,
    operation: { left, width: operationWidth },
    inputs: first,
    room,
    shown,
    labelled: labelledIn(room, inputs, shown, between),
  };
}

/** Which inputs have room for their labels too, in the order in which they matter. */
function labelledIn(room: number, inputs: Measured['inputs'], shown: number, between: number): boolean[] {
  const told = inputs.slice(0, shown);
  const more = shown < inputs.length ? MORE : 0;
  let left = room - more - told.reduce((sum, { bare }, k) => sum + bare + (k > 0 ? between : 0), 0);
  return told.map(({ bare, labelled }) => {
    const fits = labelled - bare <= left;
    if (fits) left -= labelled - bare;
    return fits;
  });
}
