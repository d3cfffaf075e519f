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
      'Leave more slack and wind again; winds that only slide down the post are normal.',
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
      'Take the same string from the spare set.',
      'Twice in the same place: a specialist looks at that place.',
    ],
    stringLost: true,
  },
  'wrong-cut': {
    happens: 'The wrong side of the post was cut',
    cause: 'The cutters took the string that plays, not its loose end',
    recovery: [
      'It will not hold again: slacken it, take it off and bin it.',
      'A new string from the spare set; hold its loose end away before you cut.',
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
    recovery: [
      'Stop: no new strings.',
      SAFETY.lifting.meanwhile,
      'Write what you saw in the notes.',
      'A qualified repairer looks first.',
    ],
    stringLost: false,
    stops: 'lifting',
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
  'ball-loose': {
    happens: 'The end is not home in its seat',
    cause: 'It hangs on an edge, or the string was let go slack',
    recovery: [
      'Slacken, push the string back a little.',
      'Pull it home until the end sits, then keep it under a light pull.',
    ],
    stringLost: false,
  },
  'knot-slips': {
    happens: 'The knot pulls through its slot',
    cause: 'A thin string with too small a knot',
    recovery: [
      'Slacken and take it out.',
      'Tie the knot once more through itself, so that it is thicker, and draw it tight.',
    ],
    stringLost: false,
  },
  'not-hooked': {
    happens: 'The end jumped out of the tailpiece while winding',
    cause: 'It was not held under a light pull',
    recovery: [
      'Unwind, hook it in again, keep a light pull on it.',
      'Look whether the string still reaches: it may now be short.',
    ],
    stringLost: false,
  },
  'lock-slips': {
    happens: 'It slips in the lock',
    cause: 'The lock was closed on a slack string, or not hand-tight',
    recovery: ['Slacken, open the lock, pull the string taut through it.', 'Close it by hand only: pliers strip it.'],
    stringLost: false,
  },
  'peg-slips': {
    happens: 'The peg will not hold, or jerks',
    cause: 'Dry or worn, or wound away from the wall',
    recovery: [
      'Guide the last turns against the pegbox wall: they pull the peg in.',
      'Slack string: peg compound on the two shiny rings, turn many times while pressing in gently.',
      'Still slipping: the peg is for a repairer. Never force it.',
    ],
    stringLost: false,
  },
  'slips-on-peg': {
    happens: 'A string slips on its peg',
    cause: 'Nothing crosses its end: these strings are never cut and never knotted',
    recovery: [
      'Slacken, and wind it again so that the turns cross over the end.',
      'An old, smooth string: pass its end through the hole a second time first.',
    ],
    stringLost: false,
  },
  'bridge-tipped': {
    happens: 'The bridge leans or has moved',
    cause: 'New strings drag it towards the nut',
    recovery: [
      'Hold it low with both hands, thumbs at the top, and ease it upright.',
      'The side towards the tailpiece stands square to the top; feet on their marks.',
      'Too tight to move gently: slacken a little first. Look again within 24 hours.',
    ],
    stringLost: false,
  },
  'soundpost-down': {
    happens: 'The soundpost has fallen or something is loose inside',
    cause: 'The pull was lost',
    recovery: ['Stop.', SAFETY.soundpost.meanwhile, 'Take the bridge off if it is loose.', 'A luthier sets the post.'],
    stringLost: false,
    stops: 'soundpost',
  },
  'tailpiece-fell': {
    happens: 'The tailpiece or bridge came off',
    cause: 'Nothing pulls on it any longer',
    recovery: [
      'Lay it back by the photograph: adjusting screws to the side you noted, height posts untouched.',
      'Tape it, and bring one string to a light pull before anything else.',
    ],
    stringLost: false,
  },
  'winding-loose': {
    happens: 'The winding is loose or the string sounds dead',
    cause: 'Cut without a bend, overstretched, or kinked',
    recovery: ['It cannot be mended: a new string.', 'Bend first, then cut beyond the bend.'],
    stringLost: true,
  },
  'too-short': {
    happens: 'The string does not reach',
    cause: 'Cut too early, or made for a shorter scale',
    recovery: [
      'Uncut: leave less slack and lock the end under itself.',
      'Cut, or the winding ends before the nut: a longer string.',
    ],
    stringLost: false,
  },
  caught: {
    happens: 'It caught on a switch, a tuner or a corner',
    cause: 'Nobody watched the loose strings while tightening',
    recovery: ['Slacken, free it, look for a kink.', 'Kinked where it speaks: a new string.'],
    stringLost: false,
  },
  'octave-off': {
    happens: 'The twelfth fret does not match the open string’s octave',
    cause: 'A twist in the string, a moved bridge, or another gauge',
    recovery: [
      'Slacken a little and let the twist out at the tail end.',
      'Measure the string length; a floating bridge goes back to its marks.',
      'Still off after a change of gauge: the set-up is for someone who does set-ups.',
    ],
    stringLost: false,
  },
  'unknown-part': {
    happens: 'A part is not what the card says',
    cause: 'Changed hardware, or never written down',
    recovery: [
      'Photograph it. Stop. Ask before taking anything off.',
      'Then correct the build, and the method follows.',
    ],
    stringLost: false,
    stops: 'unsure',
  },
  'open-rattle': {
    happens: 'An open string rattles at the head',
    cause: 'Too few winds: it does not pull down at the nut',
    recovery: ['Slacken and rewind with the whole length, far down.', 'It looks like a bad nut and is not one.'],
    stringLost: false,
  },
  'holds-no-note': {
    happens: 'It went flat since the last visit',
    cause: 'A new string creeps; gut, nylon and composite for days',
    recovery: [`Retune from below. ${OVERNIGHT}`, 'Flat again on day 3: look at the tail, then the winds.'],
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

/** The danger that a mistake stops the job for; null for what is only to be done again. */
export const stopsFor = (id: MistakeId): SafetyTopicId | null => (MISTAKES[id] as Mistake).stops ?? null;

/** Whether it is true of a mistake that everything can be done again while the string is uncut. */
export const isRedone = (id: MistakeId): boolean =>
  stopsFor(id) === null && !MISTAKES[id].stringLost && !NOT_OF_STRINGS.includes(id);

/** Of the instrument or the bench: no string, cut or not, says how it ends. */
const NOT_OF_STRINGS: readonly MistakeId[] = ['bridge-tipped', 'tailpiece-fell', 'count-short', 'pin-stuck'];
