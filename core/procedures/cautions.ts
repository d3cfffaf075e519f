import { SAFETY } from '../safety/topics';
import { lowerFirst } from '../sentence';

/** Cautions, each once. Common practice, no source. */
export const CAUTIONS = {
  'sharp-ends': 'String ends are sharp. Uncoil at arm’s length with your face back; eye protection is advised.',
  'under-tension': 'Never cut a string under tension: it whips out.',
  'pin-under-tension': 'Never pull a pin while its string is tight: it shoots out.',
  'hand-over': 'Rest a hand on the strings while slackening: if one snaps, your hand stops it.',
  'bin-ends': 'Coil old strings and bin them at once: loose ends injure children and pets.',
  cutters: 'Minors use cutters only with an adult beside them. School rules come first.',
  'powered-winder': 'Powered winder: low torque, low speed.',
  'oil-rags':
    'Oils: read the label and the school’s safety data sheet. Rags with linseed or Danish oil can heat up by themselves and catch fire: dry them flat outdoors or keep them in a closed metal can with water, and follow local fire rules.',
  'face-away': 'Face away while stretching and tuning up.',
  'finger-pressure': 'Finger pressure only: a hammer, clamp or over-tight pin cracks the bridge.',
  'qualified-repair':
    'Cracks, a lifting bridge and nut work are for a qualified repairer. Local codes and the school’s rules come first.',
  solvents: 'Cleaner: read the label and the school’s safety data sheet; open a window.',
  'steel-wool':
    'Steel wool dust irritates eyes and sticks to pickups. Wear eye protection, mask the pickups, wipe up at once.',
  soundpost: `Only string tension keeps the soundpost standing. If it falls: ${lowerFirst(SAFETY.soundpost.meanwhile)} A luthier resets it.`,
  heavy: 'Heavy and tall: get a second pair of hands to lay it down and stand it up.',
} as const;
export type CautionId = keyof typeof CAUTIONS;

/** The cautions a tool or material calls for wherever it is used. */
export const CALLS_FOR: Readonly<Record<string, readonly CautionId[]>> = {
  cutters: ['cutters', 'sharp-ends'],
  winder: ['powered-winder'],
  'board conditioner': ['oil-rags'],
  'board cleaner': ['solvents'],
  'very fine steel wool': ['steel-wool'],
};
