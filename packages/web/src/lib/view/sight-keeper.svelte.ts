import { passEyesSchema, type PassEyes, type Sight } from '@mint-tally/core';
import * as z from 'zod';
import { askServer } from '$lib/asking/ask-server';

/** What has been seen of one pass of one shot. */
interface Sheaf {
  readonly shotId: number;
  readonly pass: string;
  readonly sights: Map<string, Sight>;
}

const answerSchema = z.object({ eyes: z.array(passEyesSchema) });

/** While it plays, what was seen is sent so often, in milliseconds. */
const EVERY = 4000;
/** Of one pass at a time, as many as the route takes. */
const MOST_AT_ONCE = 5000;

/** Keeps what somebody sees until the server has it: nothing is lost while the server is away, or when the page is left. */
export class SightKeeper {
  /** Why the server does not take it; empty while it does. */
  problem: string = $state('');

  private sheaves: Sheaf[] = [];
  private timer: ReturnType<typeof setTimeout> | null = null;
  private sending: Promise<void> | null = null;
  private readonly person: () => string;
  private readonly onNoted: (shotId: number, eyes: readonly PassEyes[]) => void;

  /** @param onNoted told what has been seen of the shot, as soon as the server has taken more */
  constructor(person: () => string, onNoted: (shotId: number, eyes: readonly PassEyes[]) => void) {
    this.person = person;
    this.onNoted = onNoted;
  }

  /** Notes that a frame was seen. */
  note(shotId: number, pass: string, sight: Sight): void {
    let sheaf = this.sheaves.find((one) => one.shotId === shotId && one.pass === pass);
    if (!sheaf) this.sheaves.push((sheaf = { shotId, pass, sights: new Map() }));
    const key = `${sight.frame} ${sight.content} ${sight.way}`;
    const known = sheaf.sights.get(key);
    if (known && (known.parts | sight.parts) === known.parts) return;
    sheaf.sights.set(key, { ...sight, parts: sight.parts | (known?.parts ?? 0) });
    this.timer ??= setTimeout(() => void this.send(), EVERY);
  }

  /** Sends what is not yet known to the server. What it does not take is kept, and sent again with what comes. */
  async send(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    while (this.sending) await this.sending;
    const taken = this.takeAll();
    if (taken.length === 0) return;
    this.sending = (async () => {
      for (const { shotId, body } of taken) {
        const answer = await askServer(`/shots/${shotId}/sights`, 'POST', body);
        this.problem = answer.ok ? '' : answer.refused;
        const noted = answer.ok && answerSchema.safeParse(answer.value);
        if (noted && noted.success) this.onNoted(shotId, noted.data.eyes);
        if (!answer.ok) for (const sight of body.sights) this.note(shotId, body.pass, sight);
      }
    })();
    await this.sending;
    this.sending = null;
  }

  /** The page is being left: what is not yet known goes without an answer being waited for. */
  sendAway(): void {
    for (const { shotId, body } of this.takeAll())
      navigator.sendBeacon(`/shots/${shotId}/sights`, new Blob([JSON.stringify(body)], { type: 'application/json' }));
  }

  private takeAll(): { shotId: number; body: { pass: string; person: string; sights: Sight[] } }[] {
    const person = this.person();
    const taken = this.sheaves.flatMap(({ shotId, pass, sights }) => {
      const all = [...sights.values()];
      const parts: Sight[][] = [];
      for (let from = 0; from < all.length; from += MOST_AT_ONCE) parts.push(all.slice(from, from + MOST_AT_ONCE));
      return parts.map((some) => ({ shotId, body: { pass, person, sights: some } }));
    });
    this.sheaves = [];
    return taken;
  }
}
