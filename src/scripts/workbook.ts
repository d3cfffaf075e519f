import writeXlsxFile from 'write-excel-file/browser';

/** A cell as a value: a number where nothing but one stands in it, else its words. */
function cellValue(cell: Element): string | number | null {
  // What the eye alone is told (a drawing) says nothing here; each block of words is one.
  const own = cell.cloneNode(true) as Element;
  for (const hidden of own.querySelectorAll('svg, button, input, select, script, style, [aria-hidden=true]'))
    hidden.remove();
  const text = (own.textContent ?? '').replace(/\s+/g, ' ').trim();
  if (text === '') return null;
  return /^-?\d{1,12}(?:\.\d+)?$/.test(text) ? Number(text) : text;
}

/** A name that a sheet of a workbook may have. */
const sheetName = (text: string, n: number): string =>
  text
    .replace(/[\\/?*[\]:]/g, ' ')
    .trim()
    .slice(0, 28) || `Table ${n + 1}`;

/** The tables of a page as they stand there, as one .xlsx workbook with a sheet for each. Text stays text. */
export async function saveTables(tables: readonly HTMLTableElement[], fileName: string): Promise<void> {
  const taken = new Set<string>();
  const sheets = tables.map((table, n) => {
    const named = table.closest('[aria-label]')?.getAttribute('aria-label') ?? table.caption?.textContent ?? '';
    let sheet = sheetName(named, n);
    while (taken.has(sheet.toLowerCase())) sheet = `${sheet.slice(0, 25)} ${n + 1}`;
    taken.add(sheet.toLowerCase());
    const data = [...table.rows].map((row) =>
      [...row.cells].flatMap((cell) => {
        const value = cellValue(cell);
        const first =
          value === null
            ? null
            : typeof value === 'number'
              ? { value, type: Number }
              : {
                  value,
                  type: String,
                  ...(row.parentElement?.tagName === 'THEAD' ? { fontWeight: 'bold' as const } : {}),
                };
        return [first, ...Array(Math.max(0, cell.colSpan - 1)).fill(null)];
      }),
    );
    return { data, sheet };
  });
  await writeXlsxFile(sheets).toFile(fileName);
}
