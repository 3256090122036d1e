import { canonicalJson } from '#core/shot';
import { type Check, type Finding } from './finding';

/** A channel is kept that holds nothing worth keeping: disk for the sake of it. */
export const unreadChannels: Check = {
  id: 'unread-channel',
  find({ settings }) {
    const found: Finding[] = [];
    const hot =
      settings.sources.some((s) => !s.hidden && ((s.heat ?? 0) !== 0 || s.moves['heat'] !== undefined)) || settings.matter.fire !== null;
    const add = (name: 'temperature' | 'fuel', title: string, text: string): void => {
      found.push({
        id: `unread-channel:${name}`,
        group: 'keep',
        severity: 'note',
        title,
        text,
        frames: null,
        remedies: [{ title: `${name === 'fuel' ? 'Fuel' : 'Temperature'} on → off`, edits: [{ path: `keep.${name}`, value: false }] }],
      });
    };
    if (settings.keep.temperature && !hot && settings.sources.length > 0 && settings.keep.density) {
      add(
        'temperature',
        'Temperature is kept, and is the same everywhere',
        'No source emits heat and nothing burns: the channel holds the ambient temperature only.',
      );
    }
    if (settings.keep.fuel && settings.matter.fire) {
      add(
        'fuel',
        'Fuel is kept, and nothing reads it',
        'What is seen of a fire is flame and soot; unburnt fuel is of use for looking at a run only.',
      );
    }
    const emitting = settings.sources.filter((s) => !s.hidden && s.density !== null);
    if (
      settings.matter.colour &&
      emitting.length > 0 &&
      emitting.every((s) => canonicalJson(s.colour) === canonicalJson(emitting[0]?.colour))
    ) {
      found.push({
        id: 'unread-channel:colour',
        group: 'matter',
        severity: 'note',
        title: 'Colour is carried, and all of it is the same',
        text: 'Every source has the same colour: three scalars are carried to say so. Give the sources colours of their own, or leave it to the look.',
        frames: null,
        remedies: [{ title: 'Carry colour on → off', edits: [{ path: 'matter.colour', value: false }] }],
      });
    }
    return found;
  },
};
