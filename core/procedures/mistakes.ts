import { SAFETY, type SafetyTopicId } from '../safety/topics';
import { OVERNIGHT } from '../settling/overnight';

export interface Mistake {
  happens: string;
  cause: string;
  recovery: string[];
  /** Whether the string itself is lost. */
  stringLost: boolean;
  /** It is about the instrument, not about a string: the job stops here, and nothing is made light of. */
  stops?: SafetyTopicId;
}

/** Usual mistakes with their recovery, each once. Common practice, no source. */
export const MISTAKES = {
  'not-slack': {
    happens: 'It still sounds or rattles when plucked',
    cause: 'It is still under tension, or the button was turned the wrong way',
    recovery: ['If the pitch rises, turn the other way.', 'Keep going until there is no note and no rattle.'],
    stringLost: false,
  },
  'pin-stuck': {
    happens: 'A pin will not come out',
    cause: 'The ball is wedged beside it, or the pin is swollen',
    recovery: [
      'Push the string a little into the hole to free the ball.',
      'Push the pin up from inside, or use the winder notch.',
      'Never force it: if it still sticks, ask someone to look.',
    ],
    stringLost: false,
  },
  'pin-lifts': {
    happens: 'The pin lifts while tuning',
    cause: 'The ball sits on the tip of the pin',
    recovery: [
      'Slacken this string.',
      'Press the pin, pull up on the string, feel the ball slide against the bridge plate.',
      'Tug, then wind again.',
    ],
    stringLost: false,
  },
  'slips-at-post': {
    happens: 'The string slips at the post',
    cause: 'Too few winds, no lock, or trimmed too early',
    recovery: [
      'Slacken and take it off the post.',
      'Leave more slack and rewind. Winds that only slide down the post are normal.',
      'If it was cut too short, fit a new string.',
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
    cause: 'The loop was pulled tight too soon',
    recovery: [
      'Slacken and open the loop.',
      'Lay the last tuck on the back face, below the edge, and pull it tight again.',
    ],
    stringLost: false,
  },
  'winds-cross': {
    happens: 'The winds climb or cross',
    cause: 'The string was not held down while winding',
    recovery: [
      'Slacken until the crossed winds are undone.',
      'Press the string down and guide each wind below the last.',
    ],
    stringLost: false,
  },
  'wrong-side': {
    happens: 'The string leaves on the outside of the post',
    cause: 'The post was turned the wrong way',
    recovery: ['Slacken, take it off and wind again.', 'Check: the string leaves the post on the inside.'],
    stringLost: false,
  },
  'out-of-slot': {
    happens: 'The string has come out of its nut slot',
    cause: 'Pulled out by winding or stretching',
    recovery: ['Slacken a little.', 'Put it back in its slot before you go on tuning.'],
    stringLost: false,
  },
  pings: {
    happens: 'It pings while tuning',
    cause: 'The string sticks in its slot',
    recovery: [
      'Slacken, lift it out and put graphite in the slot.',
      'Still pinging: a tight slot is work for a qualified repairer.',
    ],
    stringLost: false,
  },
  snaps: {
    happens: 'The string snaps',
    cause: 'Tuned past the note, kinked, or a sharp saddle or slot',
    recovery: [
      'Check eyes and fingers, then bin the pieces.',
      'Take the same string from the spare set.',
      'Twice in the same place: have a qualified repairer check that spot.',
    ],
    stringLost: true,
  },
  'wrong-cut': {
    happens: 'The wrong side of the post was cut',
    cause: 'The cutters took the string that plays, not its loose end',
    recovery: [
      'It will not hold again: slacken it, take it off and bin it.',
      'Fit a new one from the spare set; hold its loose end away before you cut.',
    ],
    stringLost: true,
  },
  'still-gives': {
    happens: 'It still drops a lot when stretched',
    cause: 'Not yet stretched, or not seated',
    recovery: [
      'Retune and stretch once more, gently.',
      'No better after four rounds: check the ball or tie, then the winds.',
    ],
    stringLost: false,
  },
  'wrong-string': {
    happens: 'The wrong string is on',
    cause: 'Envelopes mixed up',
    recovery: ['Leave it uncut.', 'Slacken, take it off, and put the right one on.'],
    stringLost: false,
  },
  'needs-repair': {
    happens: 'Something is cracked, loose or lifting',
    cause: 'Wear or an accident',
    recovery: [
      'Stop. Fit no new strings.',
      SAFETY.lifting.meanwhile,
      'Write what you saw in the notes.',
      'A qualified repairer must look first.',
    ],
    stringLost: false,
    stops: 'lifting',
  },
  'count-short': {
    happens: 'The count is short',
    cause: 'An end, a pin or a tool is still missing',
    recovery: [
      'Look under the instrument, in the soundhole and on the floor.',
      'Tilt it gently, never shake it: an end inside rattles.',
    ],
    stringLost: false,
  },
  'ball-loose': {
    happens: 'The string end is not seated',
    cause: 'It caught on an edge, or the string went slack',
    recovery: [
      'Slacken, and push the string back a little.',
      'Pull until the end seats, then keep light tension on it.',
    ],
    stringLost: false,
  },
  'knot-slips': {
    happens: 'The knot pulls through its slot',
    cause: 'Knot too small for a thin string',
    recovery: [
      'Slacken and take it out.',
      'Pass the end through the knot once more to make it bigger, and pull it tight.',
    ],
    stringLost: false,
  },
  'not-hooked': {
    happens: 'The end jumped out of the tailpiece while winding',
    cause: 'It was not kept under light tension',
    recovery: [
      'Unwind, hook it in again, keep light tension on it.',
      'Check that the string still reaches: it may now be too short.',
    ],
    stringLost: false,
  },
  'lock-slips': {
    happens: 'It slips in the lock',
    cause: 'The lock was closed on a slack string, or not hand-tight',
    recovery: [
      'Slacken, open the lock, pull the string tight through it.',
      'Tighten it by hand only: pliers strip it.',
    ],
    stringLost: false,
  },
  'peg-slips': {
    happens: 'The peg will not hold, or jerks',
    cause: 'Dry or worn, or wound away from the wall',
    recovery: [
      'Guide the last winds against the pegbox wall: they pull the peg in.',
      'String slack: compound on the two shiny bands, then turn many times, pressing in gently.',
      'Still slipping: the peg needs a luthier. Never force it.',
    ],
    stringLost: false,
  },
  'slips-on-peg': {
    happens: 'A string slips on its peg',
    cause: 'Nothing crosses over its end: these strings are never cut or knotted',
    recovery: [
      'Slacken, and rewind it so the winds cross over the end.',
      'An old, smooth string: pass its end through the hole a second time first.',
    ],
    stringLost: false,
  },
  'bridge-tipped': {
    happens: 'The bridge leans or has moved',
    cause: 'New strings pull it towards the nut',
    recovery: [
      'Hold it in both hands, fingers low and thumbs at the top edge; ease it upright.',
      'The tailpiece side of the bridge is square to the top; feet on their marks.',
      'Too tight to move gently: slacken a little first. Check again within 24 hours.',
    ],
    stringLost: false,
  },
  'soundpost-down': {
    happens: 'The soundpost has fallen or something is loose inside',
    cause: 'String tension was lost',
    recovery: [
      'Stop.',
      SAFETY.soundpost.meanwhile,
      'Take the bridge off if it is loose.',
      'A luthier resets the post.',
    ],
    stringLost: false,
    stops: 'soundpost',
  },
  'tailpiece-fell': {
    happens: 'The tailpiece or bridge came off',
    cause: 'No string tension was left to hold it',
    recovery: [
      'Put it back as in the photograph, adjusting screws facing the way you noted. Leave the height posts alone.',
      'Tape it, and put light tension on one string before anything else.',
    ],
    stringLost: false,
  },
  'winding-loose': {
    happens: 'The winding is loose or the string sounds dead',
    cause: 'Cut without a bend, overstretched, or kinked',
    recovery: ['It cannot be mended: fit a new string.', 'Next time, bend first and cut beyond the bend.'],
    stringLost: true,
  },
  'too-short': {
    happens: 'The string does not reach',
    cause: 'Cut too early, or made for a shorter scale',
    recovery: [
      'If it is uncut, leave less slack and use a self-lock.',
      'If it is cut, or its winding stops short of the nut, fit a longer string.',
    ],
    stringLost: false,
  },
  caught: {
    happens: 'It caught on a switch, a tuner or a corner',
    cause: 'It snagged while it was slack',
    recovery: ['Slacken, free it, look for a kink.', 'Kinked between nut and bridge: fit a new string.'],
    stringLost: false,
  },
  'octave-off': {
    happens: 'The 12th fret is not in tune with the open string',
    cause: 'A twist in the string, a moved bridge, or a different gauge',
    recovery: [
      'Slacken a little and let the twist out at the tail end.',
      'Measure the string length; put a floating bridge back on its marks.',
      'Still out after a change of gauge: it needs a set-up by a technician.',
    ],
    stringLost: false,
  },
  'unknown-part': {
    happens: 'A part differs from the record',
    cause: 'Hardware changed, or never recorded',
    recovery: ['Photograph it. Stop. Ask before taking anything off.', 'Then correct the build, and the steps follow.'],
    stringLost: false,
    stops: 'unsure',
  },
  'open-rattle': {
    happens: 'An open string rattles at the headstock',
    cause: 'Too few winds: too little pressure in the nut slot',
    recovery: [
      'Slacken and rewind the whole length, far down the post.',
      'It sounds like a bad nut, but it is not one.',
    ],
    stringLost: false,
  },
  'holds-no-note': {
    happens: 'It has gone flat since the last follow-up',
    cause: 'New strings keep stretching; gut, nylon and composite for days',
    recovery: [`Retune from below. ${OVERNIGHT}`, 'Flat again on day 3: check the tail, then the winds.'],
    stringLost: false,
  },
  buzzes: {
    happens: 'An open string rattles or buzzes',
    cause: 'Too little pressure in the nut slot, a long tail, or a kink',
    recovery: [
      'Check tails and winds before blaming the nut.',
      'Trim or tuck tails; rewind lower if the winds sit high.',
    ],
    stringLost: false,
  },
} as const satisfies Record<string, Mistake>;
export type MistakeId = keyof typeof MISTAKES;

/** The danger that a mistake stops the job for; null for what is only to be done again. */
export const stopsFor = (id: MistakeId): SafetyTopicId | null => (MISTAKES[id] as Mistake).stops ?? null;

/** Whether it is true of a mistake that everything can be done again while the string is uncut. */
export const isRedone = (id: MistakeId): boolean =>
  stopsFor(id) === null && !MISTAKES[id].stringLost && !NOT_OF_STRINGS.includes(id);

/** Of the instrument or the bench: no string, cut or not, says how it ends. */
const NOT_OF_STRINGS: readonly MistakeId[] = ['bridge-tipped', 'tailpiece-fell', 'count-short', 'pin-stuck'];
