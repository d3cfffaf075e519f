/** Cautions and usual mistakes with their recovery, each once. Common practice, no source. */

export const CAUTIONS = {
  'sharp-ends': 'String ends are sharp. Uncoil at arm’s length, face back; eye protection is advised.',
  'under-tension': 'Never cut a string or pull a pin under tension: it flies.',
  'hand-over': 'Keep a hand resting on the strings while slackening: if one snaps it stops there.',
  'bin-ends': 'Coil old strings and bin them at once: ends hurt floors, pets and children.',
  cutters: 'Minors use cutters only with an adult beside them. School rules come first.',
  'powered-winder': 'Powered winder: low torque, low speed.',
  'oil-rags':
    'Oils: read the label and the school’s safety data sheet. Rags with linseed or Danish oil can heat by themselves and catch fire: dry them flat outdoors or keep them in a closed metal can with water, and follow local fire rules.',
  'face-away': 'Face away while stretching and tuning up.',
  'finger-pressure': 'Finger pressure only: a hammer, clamp or over-tight pin cracks the bridge.',
  'qualified-repair': 'Cracks, a lifting bridge and nut work are for a qualified repairer.',
} as const;
export type CautionId = keyof typeof CAUTIONS;

export interface Mistake {
  happens: string;
  cause: string;
  recovery: string[];
  /** Whether the string itself is lost. */
  stringLost: boolean;
}

export const MISTAKES = {
  'not-slack': {
    happens: 'It still sounds or rattles when plucked',
    cause: 'Tension is left, or the button was turned the wrong way',
    recovery: ['If the pitch rises, turn the other way.', 'Go on until there is no note and no rattle.'],
    stringLost: false,
  },
  'pin-stuck': {
    happens: 'A pin will not come out',
    cause: 'The ball is wedged beside it, or the pin is swollen',
    recovery: [
      'Push the string a little into the hole to free the ball.',
      'Push the pin up from inside, or use the notch of the winder.',
      'Never force it: a pin that still sticks waits for a second pair of eyes.',
    ],
    stringLost: false,
  },
  'pin-lifts': {
    happens: 'The pin lifts while tuning',
    cause: 'The ball sits on the tip of the pin',
    recovery: [
      'Slacken this string.',
      'Press the pin, pull up on the string, feel the ball slide against the plate.',
      'Tug, then wind again.',
    ],
    stringLost: false,
  },
  'slips-at-post': {
    happens: 'The string slips at the post',
    cause: 'Too few winds, no lock, or trimmed too early',
    recovery: [
      'Slacken and take it off the post.',
      'Leave more slack and wind again.',
      'If it was cut too short: a new string.',
    ],
    stringLost: false,
  },
  'tail-slips': {
    happens: 'The tail slips at the bridge',
    cause: 'One tuck too few, or a short tail',
    recovery: ['Slacken and start this string again.', 'Leave a longer tail and give it one more tuck.'],
    stringLost: false,
  },
  'tuck-on-top': {
    happens: 'The last tuck crosses on top of the block',
    cause: 'The loop was drawn tight too early',
    recovery: [
      'Slacken, open the loop.',
      'Lay the last tuck on the back face, below the edge, and draw it tight again.',
    ],
    stringLost: false,
  },
  'winds-cross': {
    happens: 'The winds climb or cross',
    cause: 'The string was not held down while winding',
    recovery: ['Slacken until the crossing is off.', 'Press the string down and guide each wind below the last.'],
    stringLost: false,
  },
  'wrong-side': {
    happens: 'The string leaves on the outside of the post',
    cause: 'The post was turned the wrong way',
    recovery: [
      'Slacken, take it off and wind again.',
      'The test: the string leaves the post on the inside of the head.',
    ],
    stringLost: false,
  },
  'out-of-slot': {
    happens: 'The string has left its nut slot',
    cause: 'Pulled out by winding or stretching',
    recovery: ['Slacken a little.', 'Set it back in its slot before tuning on.'],
    stringLost: false,
  },
  pings: {
    happens: 'It pings while tuning',
    cause: 'The string sticks in its slot',
    recovery: [
      'Slacken, lift it out and put graphite in the slot.',
      'Still pinging: a slot too tight is a specialist’s job.',
    ],
    stringLost: false,
  },
  snaps: {
    happens: 'The string snaps',
    cause: 'Overshot, kinked, or a sharp saddle or slot',
    recovery: [
      'Check eyes and fingers, bin the pieces.',
      'Take the same string from the spare set and note it as broken at the finish.',
      'Twice in the same place: a specialist looks at that place.',
    ],
    stringLost: true,
  },
  'still-gives': {
    happens: 'A pull still drops it a lot',
    cause: 'Not yet stretched, or not seated',
    recovery: [
      'Retune and stretch once more, gently.',
      'No better after four rounds: look at the ball or tie, then the winds.',
    ],
    stringLost: false,
  },
  'wrong-string': {
    happens: 'The string on is not the one meant',
    cause: 'Envelopes mixed up',
    recovery: ['Leave it uncut.', 'Slacken, take it off, and put the right one on.'],
    stringLost: false,
  },
  'needs-repair': {
    happens: 'Something is cracked, loose or lifting',
    cause: 'Wear or an accident',
    recovery: ['Stop: no new strings.', 'Write what you saw in the notes.', 'A qualified repairer looks first.'],
    stringLost: false,
  },
  'count-short': {
    happens: 'The count does not come out',
    cause: 'An end, a pin or a tool lies somewhere',
    recovery: [
      'Look under the instrument, in the soundhole and on the floor.',
      'Shake it out gently over the bench: an end inside rattles.',
    ],
    stringLost: false,
  },
  buzzes: {
    happens: 'It rattles or buzzes open',
    cause: 'Too little pull down at the nut, a long tail, or a kink',
    recovery: [
      'Look at tails and winds before blaming the nut.',
      'Trim or tuck tails; rewind lower if the winds sit high.',
    ],
    stringLost: false,
  },
} as const satisfies Record<string, Mistake>;
export type MistakeId = keyof typeof MISTAKES;
