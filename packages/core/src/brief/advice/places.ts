import { advice, type AdviceRule } from './advice.ts';
import { sayBytes } from '../../wording.ts';

/** Folders whose content comes and goes by itself. */
const CLEARED = /^(tmp|temp|temporary|cache|caches|scratch|trash|\.trash|recycled?|downloads?)$/i;
/** Folders that something copies elsewhere while they are written. */
const SYNCED = /^(sync|synced|cloud|.*[ _-](sync|cloud))$/i;

export const folderRule: AdviceRule = (_, { folder }) => {
  if (folder === null) return [];
  const parts = folder.split('/');
  const cleared = parts.find((part) => CLEARED.test(part));
  if (cleared !== undefined) return [advice('temporary-folder', 'folder', `Folders called ${cleared} are cleared by the system or by people.`, folder)];
  const synced = parts.find((part) => SYNCED.test(part));
  if (synced !== undefined)
    return [advice('temporary-folder', 'folder', `${synced} looks like a folder that is copied elsewhere while frames are written.`, folder)];
  return [];
};

export const diskRule: AdviceRule = (_, { freeBytes, plannedBytes }) => {
  if (freeBytes === null || plannedBytes === null || plannedBytes <= freeBytes) return [];
  return [
    advice(
      'disk-short',
      'folder',
      'The frames will not fit on the disk.',
      `${sayBytes(plannedBytes)} are needed, ${sayBytes(freeBytes)} are free: ${sayBytes(plannedBytes - freeBytes)} are lacking`,
    ),
  ];
};

export const scaleRule: AdviceRule = ({ brief: { scale, crop, resolution } }) => {
  const found = [];
  if (scale !== undefined && scale !== 100) {
    const sum = resolution ? `${resolution.map((side) => Math.round((side * scale) / 100)).join(' x ')} of ${resolution.join(' x ')}` : `${scale} %`;
    found.push(advice('scaled-render', 'scale', `The scale is ${scale} %: set it back before the last render.`, sum));
  }
  if (crop && !(resolution && crop[2] === resolution[0] && crop[3] === resolution[1])) {
    const sum = resolution
      ? `${crop[2]} x ${crop[3]} of ${resolution.join(' x ')}: ${((100 * crop[2] * crop[3]) / (resolution[0] * resolution[1])).toFixed(0)} % of the pixels`
      : `${crop[2]} x ${crop[3]}`;
    found.push(advice('scaled-render', 'crop', 'A crop region is set: the rest of the picture is not rendered.', sum));
  }
  return found;
};
