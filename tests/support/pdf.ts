import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs';

interface PdfPage {
  /** Width and height in mm. */
  size: [number, number];
  /** Its words, with where they begin in mm from the top left. */
  words: { says: string; x: number; y: number }[];
}

const mm = (points: number) => Math.round((points / 72) * 25.4);

/** The words of each page of a PDF. */
export async function readPdf(pdf: Uint8Array): Promise<PdfPage[]> {
  const document = await getDocument({ data: new Uint8Array(pdf), verbosity: 0 }).promise;
  const pages: PdfPage[] = [];
  for (let n = 1; n <= document.numPages; n++) {
    const page = await document.getPage(n);
    const [, , width = 0, height = 0] = page.view;
    const { items } = await page.getTextContent();
    pages.push({
      size: [mm(width), mm(height)],
      words: items.flatMap((i) =>
        'str' in i && i.str.trim() ? [{ says: i.str, x: mm(i.transform[4]), y: mm(height - i.transform[5]) }] : [],
      ),
    });
  }
  return pages;
}

/** All that a PDF says, as one text. */
export const pdfText = async (pdf: Uint8Array): Promise<string> =>
  (await readPdf(pdf)).flatMap((p) => p.words.map((w) => w.says)).join(' ');
