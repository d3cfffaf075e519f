import { lowerFirst } from '../sentence';
/**
 * What is said to somebody about a danger to an instrument, each topic once: the card, the recovery at the bench, the
 * fault desk, the referral note, the hand-over note and the label take their sentences from here, so that none says the
 * opposite of another. Common practice, no source.
 */
export interface SafetyTopic {
  /** What is wrong, as a complaint or a finding. */
  name: string;
  /** What is done with the strings until somebody qualified has looked. */
  strings: 'slacken' | 'none' | 'leave-slack' | 'at-pitch' | 'as-found';
  /** What to do now, for whoever holds it. */
  meanwhile: string;
  /** Who it goes to. */
  to: string;
}

export const SAFETY = {
  lifting: {
    name: 'A crack, a lifting bridge or a loose brace',
    strings: 'slacken',
    meanwhile: 'Slacken all strings evenly, a little at a time, then stop. Keep it flat in its case.',
    to: 'a qualified repairer',
  },
  soundpost: {
    name: 'The soundpost is down or leaning, or something is loose inside',
    strings: 'none',
    meanwhile: 'No tension on any string. Keep it flat and do not shake it.',
    to: 'a luthier',
  },
  'all-slack': {
    name: 'All strings are slack',
    strings: 'leave-slack',
    meanwhile: 'Do not tighten anything. Lay it flat.',
    to: 'a luthier',
  },
  'post-check': {
    name: 'It was found slack and is back at pitch; the soundpost has not been checked',
    strings: 'at-pitch',
    meanwhile:
      'Leave it at pitch in its case, at 40 to 60 % humidity. Nobody plays it until the post has been checked.',
    to: 'a luthier',
  },
  leaning: {
    name: 'The bridge leans or has moved',
    strings: 'as-found',
    meanwhile: 'Stop playing and do not tune it.',
    to: 'a luthier',
  },
  nut: {
    name: 'A nut slot, a fret or a saddle',
    strings: 'at-pitch',
    meanwhile: 'Leave it tuned to pitch: this work is judged with the strings on.',
    to: 'a qualified repairer',
  },
  'set-up': {
    name: 'A set-up for different strings',
    strings: 'at-pitch',
    meanwhile: 'Leave the new strings on and tuned to pitch: it is set up for them.',
    to: 'a set-up technician',
  },
  pins: {
    name: 'A pin that does not fit its hole',
    strings: 'slacken',
    meanwhile: 'Slacken that string and leave its pin in the case.',
    to: 'a qualified repairer',
  },
  unsure: {
    name: 'Something that needs looking at first',
    strings: 'as-found',
    meanwhile: 'Leave the strings as they are; do not tighten anything. Keep it flat in its case.',
    to: 'a qualified repairer',
  },
} as const satisfies Record<string, SafetyTopic>;
export type SafetyTopicId = keyof typeof SAFETY;

/** What to do now and who looks at it, as one instruction. */
export const meanwhile = (topic: SafetyTopicId): string => SAFETY[topic].meanwhile;

/** The instruction with who it goes to: "… A luthier sets the post." is said where it is known. */
export const stopFor = (topic: SafetyTopicId): string => {
  const { name, meanwhile: now, to } = SAFETY[topic];
  return `${name}: ${lowerFirst(now)} It goes to ${to}.`;
};
