import { createRequire } from 'node:module';
import type { Knex } from 'knex';
import PDFDocument from 'pdfkit';
import { create } from 'qrcode';
import { type Labels, SHEETS } from '../../contract/print';
import { sayInstant } from '../../core/instants';
import { describeBuild } from '../../core/instruments/build';
import { sayReadiness } from '../../core/wear/readiness';
import { labelAddresses } from '../faults/byLabel';
import { loadTagged } from '../fleet/instruments';
import { readinessOfMany } from '../fleet/readiness';

const POINTS_PER_MM = 72 / 25.4;
const mm = (n: number): number => n * POINTS_PER_MM;

const fonts = createRequire(import.meta.url);
const fontFile = (name: string): string => fonts.resolve(`dejavu-fonts-ttf/ttf/${name}.ttf`);

/** What stands on one label. */
export interface Label {
  tag: string;
  lines: string[];
  /** The last line, in bold: what may be said of it. */
  says: string;
  /** What its code says: an address by which anybody may say that something is wrong, or else the tag. */
  code: string;
}

/** The words of labels, in the order of their tags; tags nobody has are left out. */
export async function labelsOf(
  db: Knex,
  p: Pick<Labels, 'tags' | 'say'>,
  at: { today: string; now: number; timeZone: string },
): Promise<Label[]> {
  const instruments = (await loadTagged(db, p.tags)).filter((i) => i.retiredOn === null);
  const places = new Map((await db('place').select('id', 'name')).map((l) => [l.id, l.name]));
  const ready =
    p.say === 'ready'
      ? await readinessOfMany(
          db,
          instruments.map((i) => i.id),
          at,
        )
      : null;
  const addresses = await labelAddresses(
    db,
    instruments.map((i) => i.id),
    at.now,
  );
  return instruments.map((i) => {
    const readiness = ready?.get(i.id);
    return {
      tag: i.tag,
      code: addresses?.get(i.id) ?? i.tag,
      lines: [describeBuild(i.build.family, i.build.size), places.get(i.placeId) ?? ''],
      says: readiness ? sayReadiness(readiness, (instant) => sayInstant(instant, at.now, at.timeZone)) : '',
    };
  });
}

/** A sheet of labels as a PDF: each with its code, its tag in type that is read at arm's length, and what it is. */
export function labelSheet(labels: readonly Label[], p: Omit<Labels, 'tags' | 'say'>, title: string): Promise<Buffer> {
  const sheet = { ...SHEETS[p.sheet] };
  const left = p.left ?? sheet.left;
  const top = p.top ?? sheet.top;
  const doc = new PDFDocument({ size: sheet.paper, margin: 0, autoFirstPage: false, info: { Title: title } });
  doc.registerFont('plain', fontFile('DejaVuSansCondensed'));
  doc.registerFont('bold', fontFile('DejaVuSansCondensed-Bold'));
  const chunks: Buffer[] = [];
  const done = new Promise<Buffer>((resolve, reject) => {
    doc.on('data', (chunk: Buffer) => chunks.push(chunk));
    doc.on('end', () => resolve(Buffer.concat(chunks)));
    doc.on('error', reject);
  });
  const each = sheet.columns * sheet.rows;
  const free = Math.min(p.start, each) - 1;
  labels.forEach((label, n) => {
    const at = (n + free) % each;
    if (n === 0 || at === 0) doc.addPage();
    const x = mm(left + (at % sheet.columns) * (sheet.width + sheet.gapX));
    const y = mm(top + Math.floor(at / sheet.columns) * (sheet.height + sheet.gapY));
    drawLabel(doc, label, x, y, mm(sheet.width), mm(sheet.height));
  });
  if (labels.length === 0) doc.addPage();
  doc.end();
  return done;
}

/** What a label's edge is away from what stands on it, and the code's side at most, in points. */
const EDGE = mm(3);
const CODE = mm(26);

/** The largest size from `size` down at which a text fits a width. */
function fitting(doc: PDFKit.PDFDocument, font: string, text: string, size: number, width: number): number {
  doc.font(font);
  let fits = size;
  while (fits > 5 && doc.fontSize(fits).widthOfString(text) > width) fits -= 0.5;
  return fits;
}

function drawLabel(doc: PDFKit.PDFDocument, label: Label, x: number, y: number, width: number, height: number): void {
  const inner = height - 2 * EDGE;
  const code = Math.min(CODE, inner, width * 0.42);
  const { modules } = create(label.code, { errorCorrectionLevel: 'M' });
  const dot = code / modules.size;
  const codeX = x + width - EDGE - code;
  const codeY = y + (height - code) / 2;
  for (let row = 0; row < modules.size; row++)
    for (let from = 0; from < modules.size; ) {
      if (!modules.data[row * modules.size + from]) {
        from += 1;
        continue;
      }
      let to = from;
      while (to < modules.size && modules.data[row * modules.size + to]) to += 1;
      // A hair more, so that nothing white shows between.
      doc.rect(codeX + from * dot, codeY + row * dot, (to - from) * dot + 0.05, dot + 0.05);
      from = to;
    }
  doc.fill('black');
  const room = width - 2 * EDGE - code - mm(2);
  const line = (font: string, text: string, size: number, at: number): number => {
    const fits = fitting(doc, font, text, size, room);
    doc
      .font(font)
      .fontSize(fits)
      .text(text, x + EDGE, at, { width: room, lineBreak: false, ellipsis: true });
    return at + fits * 1.25;
  };
  let at = y + EDGE;
  at = line('bold', label.tag, Math.min(24, inner * 0.34), at);
  for (const text of label.lines) if (text) at = line('plain', text, Math.min(9.5, inner * 0.13), at);
  if (label.says) line('bold', label.says, Math.min(11, inner * 0.17), Math.max(at, y + height - EDGE - 14));
}
