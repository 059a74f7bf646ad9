import { frameStates, type FrameState } from '@mint-tally/core';

/** What the states are called on the screen. */
export const stateTitles: Record<FrameState, string> = {
  sound: 'sound',
  later: 'to come',
  waived: 'waived',
  odd: 'odd',
  wrong: 'wrong',
  broken: 'broken',
  missing: 'missing',
};

const STATE_OF_LETTER = new Map<string, FrameState>(Object.entries(frameStates).map(([state, letter]) => [letter, state as FrameState]));

/** The state that a lane's letter stands for. */
export function stateOfLetter(letter: string): FrameState {
  return STATE_OF_LETTER.get(letter) ?? 'later';
}

/** What the states mean, for those who do not know them yet. */
export const stateMeanings: Record<FrameState, string> = {
  sound: 'There once, whole, rightly named and of the right kind',
  later: 'Not counted yet, or being rendered',
  waived: 'What is wrong with it has been waived by a named person',
  odd: 'To be looked at; stops nothing',
  wrong: 'There, and wrong: its name, its kind, or a hole in its picture',
  broken: 'There, and not whole',
  missing: 'Ordered, and not there',
};
