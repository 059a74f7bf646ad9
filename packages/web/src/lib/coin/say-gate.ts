import { gateOfFamily, leftToWatch, type Gate, type GateName } from '@mint-tally/core';
import type { ShotState } from '$lib/server/shot-state';
import { counted, formatMoment } from '$lib/text/format';

/** What closed a gate, with its figures, or what holds it open. */
export function sayGate(shot: ShotState, gate: Gate): string {
  const before = shot.reopened.find((one) => one.gate === gate.name);
  if (before) {
    const since = before.changes === '' ? 'The frames are others now.' : `Since then: ${before.changes}.`;
    return `Open again: ${before.person} closed it ${formatMoment(before.at)} for the frames as they were. ${since}`;
  }
  if (gate.name === 'eyes') return sayEyes(shot, gate);
  if (gate.state === 'unmeasured')
    return shot.count === null || shot.count.stale ? 'Not counted yet' : 'Not measured yet; the assay closes it, or a person signs it off';
  const parts = [];
  if (gate.blockers > 0) parts.push(`${counted(gate.blockers, 'finding')} ${gate.blockers === 1 ? 'stops' : 'stop'} the handoff`);
  if (gate.warnings > 0) parts.push(counted(gate.warnings, 'warning'));
  if (gate.waived > 0) parts.push(`${gate.waived} waived by ${whoWaived(shot, gate.name)}`);
  const waiver = waiverOf(shot, gate);
  if (waiver) parts.push(`${waiver.person}, ${formatMoment(waiver.createdAt)}: ${waiver.reason}`);
  return parts.join(', ') || sayMeasured(shot, gate.name);
}

/** Who accepted findings of a gate, when and why. */
function whoWaived(shot: ShotState, name: GateName): string {
  const ids = new Set(shot.findings.flatMap(({ family, waiver }) => (waiver && gateOfFamily(family) === name ? [waiver.id] : [])));
  const said = shot.waivers.filter(({ id }) => ids.has(id)).map(({ person, createdAt, reason }) => `${person}, ${formatMoment(createdAt)}: ${reason}`);
  return [...new Set(said)].join('; ');
}

/** What a measurement closed, with its figures. */
function sayMeasured(shot: ShotState, name: GateName): string {
  const { count } = shot;
  const ordered = shot.lanes.reduce((sum, { states }) => sum + states.length, 0);
  if (name === 'count' && count)
    return `${counted(ordered, 'frame')} of ${shot.lanes.length} ${shot.lanes.length === 1 ? 'pass' : 'passes'}, counted ${formatMoment(count.at)}`;
  if (name === 'soundness' && count) return `All ${counted(count.files, 'file')} opened and read to the end`;
  if (shot.assay && (name === 'noise' || name === 'passes')) return `Measured ${formatMoment(shot.assay.at)}; nothing stands`;
  return 'Measured; nothing stands';
}

/** What has been watched, pass by pass; who did; who signed for it instead. */
function sayEyes(shot: ShotState, gate: Gate): string {
  if (shot.count === null || shot.count.stale) return 'Not counted yet';
  const wanted = shot.eyes.filter((one) => one.wanted);
  if (wanted.length === 0) return 'The brief asks for no pass to be watched';
  const parts = wanted.map((one) => {
    const left = leftToWatch(one);
    const files = one.watched.size + left.size;
    return left.isEmpty ? `${one.pass}: all ${counted(files, 'frame')} watched` : `${one.pass}: ${one.watched.size} of ${counted(files, 'frame')} watched`;
  });
  if (shot.watchers.length > 0) parts.push(`by ${shot.watchers.join(', ')}`);
  const waiver = waiverOf(shot, gate);
  if (waiver && gate.state === 'waived') parts.push(`${waiver.person}, ${formatMoment(waiver.createdAt)}: ${waiver.reason}`);
  return parts.join(', ');
}

/** The waiver that closes a gate as a whole for the frames of now. */
export function waiverOf(shot: ShotState, gate: Gate) {
  return shot.waivers.findLast(({ subject }) => subject.kind === 'gate' && subject.gate === gate.name && subject.content === shot.count?.content) ?? null;
}
