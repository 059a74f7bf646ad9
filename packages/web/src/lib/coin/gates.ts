import type { GateName, GateState } from '@mint-tally/core';

/** How a gate's state is called. */
export const gateStates: Record<GateState, { title: string }> = {
  closed: { title: 'closed' },
  warned: { title: 'closed, with warnings' },
  waived: { title: 'waived' },
  open: { title: 'open' },
  unmeasured: { title: 'not measured' },
};

/** What each gate asks. */
export const gateQuestions: Record<GateName, string> = {
  count: 'Every ordered frame is there, nothing twice',
  soundness: 'Every file opens and is whole, and so is its picture',
  names: 'Every name is as ordered',
  kind: 'Format, size, depth and alpha are as ordered',
  passes: 'The passes agree with each other',
  noise: 'The noise is within the target',
  eyes: 'Somebody watched every frame at full speed and size',
};
