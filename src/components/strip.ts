import { count as say } from '../../core/count';
import type { StripString } from '../../core/wear/strip';

/** One drawn string: where its line lies, how thick it is, how far it is filled and in which state. */
export interface StripLine {
  number: number;
  y: number;
  width: number;
  wound: boolean;
  /** x of the end of the filled part. */
  fillTo: number;
  tone: 'on' | 'low' | 'new' | 'settling' | 'unknown';
  /** Wavy end of a settling string, as path data; null when it has settled. */
  wave: string | null;
  /** Centre of the cross of a broken or missing string. */
  crossAt: number | null;
}

export interface StripGeometry {
  width: number;
  height: number;
  nutX: number;
  bridgeX: number;
  lines: StripLine[];
}

/** Strings at the end of their life still show a stub. */
const LEAST_DRAWN = 0.035;

/** Strings of a course lie closer together than courses do. */
const COURSE_GAP = 0.55;

/**
 * Lays the strings of an instrument out as a strip: nut at the left, bridge at the right, in playing order, line
 * weight after gauge (2.6 mm, a double-bass E, is the heaviest), filled to the life left. Pure geometry in pixels.
 */
export function stripGeometry(
  strings: readonly StripString[],
  width: number,
  height: number,
  courses?: readonly number[],
): StripGeometry {
  const nutX = 1.5;
  const bridgeX = width - 3;
  const length = bridgeX - nutX;
  const steps = strings.map((_, i) => (i > 0 && courses && courses[i] === courses[i - 1] ? COURSE_GAP : 1));
  const total = steps.slice(1).reduce((a, b) => a + b, 0);
  const pad = height * 0.13;
  const gap = total > 0 ? (height - 2 * pad) / total : 0;
  const heaviest = Math.max(1.1, Math.min(gap * 0.62 || height * 0.3, height / 9));
  let at = pad;
  const lines = strings.map((s, i): StripLine => {
    if (i > 0) at += gap * (steps[i] as number);
    const weight = Math.sqrt(Math.min(1, s.gaugeMm / 1.4));
    const gone = s.state === 'broken' || s.state === 'missing';
    const fillTo = nutX + length * (s.state === 'unknown' ? 1 : Math.max(s.life, LEAST_DRAWN));
    const crossAt = gone ? nutX + length * 0.6 : null;
    const waveFrom = bridgeX - Math.min(length * 0.14, 46);
    return {
      number: s.number,
      y: strings.length === 1 ? height / 2 : at,
      width: Math.max(0.9, heaviest * weight),
      wound: s.wound,
      fillTo: s.state === 'off' ? nutX : s.state === 'settling' ? waveFrom : gone ? (crossAt as number) - 4 : fillTo,
      tone:
        s.state === 'settling'
          ? 'settling'
          : s.state === 'unknown'
            ? 'unknown'
            : gone || s.life <= 0.04
              ? 'low'
              : s.life > 0.5
                ? 'new'
                : 'on',
      wave: s.state === 'settling' ? wavePath(waveFrom, bridgeX, at, Math.max(1, gap * 0.22)) : null,
      crossAt,
    };
  });
  return { width, height, nutX, bridgeX, lines };
}

function wavePath(from: number, to: number, y: number, amplitude: number): string {
  const step = Math.max(3, (to - from) / 8);
  let d = `M${from.toFixed(1)} ${y.toFixed(1)}`;
  let up = true;
  for (let x = from; x + step <= to + 0.01; x += step) {
    d += `q${(step / 2).toFixed(1)} ${up ? -amplitude * 1.6 : amplitude * 1.6} ${step.toFixed(1)} 0`;
    up = !up;
  }
  return d;
}

/** The inside of the strip's SVG. */
export function stripMarkup(g: StripGeometry, lit: readonly number[] = []): string {
  const hatch = Math.max(1.2, g.height / 26);
  const round = (n: number) => +n.toFixed(2);
  const path = (tone: string, width: number, d: string, dash = '') =>
    `<path class="strip-${tone}" stroke-width="${round(width)}"${dash ? ` stroke-dasharray="${dash}"` : ''} d="${d}"/>`;
  const lines = g.lines.map((line) => {
    const y = round(line.y);
    const dash = line.tone === 'unknown' ? '1.5 6' : line.wound ? `${round(hatch)} ${round(hatch * 0.55)}` : '';
    const cross = line.crossAt === null ? '' : `M${round(line.crossAt - 3.5)} ${round(line.y - 3.5)}l7 7m0-7l-7 7`;
    return [
      `<g fill="none"${lit.length > 0 && !lit.includes(line.number) ? ' opacity=".45"' : ''}>`,
      path('track', line.width, `M${g.nutX} ${y}H${g.bridgeX}`),
      line.fillTo > g.nutX + 0.5 ? path(line.tone, line.width, `M${g.nutX} ${y}H${round(line.fillTo)}`, dash) : '',
      line.wave ? path('settling', Math.max(1, line.width * 0.7), line.wave) : '',
      cross ? path('cross', Math.max(1.6, g.height / 40), cross) : '',
      '</g>',
    ].join('');
  });
  const nut = `<path fill="currentColor" d="M0 0h3v${g.height}H0z"/>`;
  const bridge = `<rect x="${g.width - 3.5}" y=".5" width="3" height="${g.height - 1}" rx="1" fill="none" stroke="currentColor"/>`;
  return lines.join('') + nut + bridge;
}

/** The strip in words, for those who do not see it. */
export function stripWords(strings: readonly StripString[]): string {
  const count = (state: StripString['state']) => strings.filter((s) => s.state === state).length;
  const parts = [say(strings.length, 'string')];
  const broken = count('broken');
  const missing = count('missing');
  const settling = count('settling');
  if (count('off')) parts.push(`${count('off')} off`);
  if (broken) parts.push(`${broken} broken`);
  if (missing) parts.push(`${missing} not fitted`);
  if (settling) parts.push(`${settling} settling`);
  if (count('unknown')) parts.push('age unknown');
  const worn = strings.filter((s) => s.state === 'on');
  if (worn.length) parts.push(`${Math.round(Math.min(...worn.map((s) => s.life)) * 100)} % of life left`);
  return parts.join(', ');
}
