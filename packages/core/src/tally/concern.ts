import type { Order, OrderedPass } from '../brief/index.ts';
import type { Finding } from './findings.ts';

/** Findings about a layer's own channels; everything else is about the file that holds it. */
const OF_THE_LAYER: ReadonlySet<string> = new Set(['wrong-channels', 'wrong-alpha', 'wrong-depth']);

/**
 * Whether a finding concerns a pass: its own do, and so do those of the pass that owns its files,
 * because layers stand and fall with the file that holds them.
 */
export function concernsPass(order: Order, ordered: OrderedPass, finding: Finding): boolean {
  if (finding.pass === ordered.pass.name) return true;
  return finding.pass === order.passes[ordered.owner]!.pass.name && !OF_THE_LAYER.has(finding.code);
}
