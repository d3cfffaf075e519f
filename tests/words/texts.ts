import { readFileSync } from 'node:fs';
import ts from 'typescript';

/** A text that a person may read; `${n}` stands for what the code fills in. */
export interface Text {
  file: string;
  line: number;
  says: string;
  /** The code that fills each place. */
  filledBy: string[];
}

/** Attributes that nobody reads. */
const SILENT =
  /^(className|class|class:list|id|key|href|to|d|viewBox|type|role|name|htmlFor|for|style|fill|stroke|transform|points|method|action|autoComplete|autocomplete|inputMode|inputmode|data-.*)$/;
/** Classes of the style sheet, statements for the database, paths of a drawing. */
const CODE =
  /(^|\s)(flex|grid|text-|bg-|border|p-\d|px-|py-|m-\d|mt-|mb-|w-|h-\d|gap-|btn|badge|rounded|sm:|md:|items-|justify-|font-|size-\d|min-[wh]|max-[wh]|sr-only|tabular)|^(select|insert|update|delete|create|alter|drop|pragma|with|begin) |\b(from|where|order by|join) \w+[ .]|^[MLHVCSQTAZ0-9 .,-]+$/;

/** The code of a page before its body, and its body as markup. */
function parts(file: string, whole: string): { code: string; from: number; kind: ts.ScriptKind }[] {
  if (!file.endsWith('.astro'))
    return [{ code: whole, from: 0, kind: file.endsWith('x') ? ts.ScriptKind.TSX : ts.ScriptKind.TS }];
  const head = /^---\n([\s\S]*?)\n---\n/.exec(whole);
  const blank = (text: string) => text.replace(/[^\n]/g, ' ');
  const body = (head ? whole.slice(head[0].length) : whole)
    .replace(/<(style|script)[\s\S]*?<\/\1>/g, blank)
    .replace(/<!--[\s\S]*?-->|<!doctype[^>]*>/gi, blank);
  return [
    ...(head ? [{ code: head[1] as string, from: 4, kind: ts.ScriptKind.TS }] : []),
    { code: `(<>${body}</>)`, from: (head?.[0].length ?? 0) - 3, kind: ts.ScriptKind.TSX },
  ];
}

/** The texts of a source file that a person may read. */
export function textsOf(file: string): Text[] {
  const whole = readFileSync(file, 'utf8');
  const found: Text[] = [];
  for (const { code, from, kind } of parts(file, whole)) {
    const source = ts.createSourceFile('x.tsx', code, ts.ScriptTarget.Latest, true, kind);
    const add = (node: ts.Node, text: string, filledBy: string[] = []) => {
      const says = text.replace(/[\s]*\n[\s]*/g, ' ').trim();
      if (!/[A-Za-z]{2}/.test(says.replace(/\$\{\d+\}/g, '')) || CODE.test(says)) return;
      const line = whole.slice(0, Math.max(0, node.getStart(source) + from)).split('\n').length;
      found.push({ file, line, says, filledBy });
    };
    const visit = (node: ts.Node): void => {
      if (
        ts.isImportDeclaration(node) ||
        ts.isExportDeclaration(node) ||
        ts.isTypeNode(node) ||
        ts.isInterfaceDeclaration(node) ||
        ts.isTaggedTemplateExpression(node)
      )
        return;
      if (ts.isJsxAttribute(node) && SILENT.test(node.name.getText(source))) return;
      if (ts.isJsxText(node)) add(node, node.text);
      else if (ts.isStringLiteralLike(node)) {
        if (/\s/.test(node.text.trim()) || /^[A-Z][a-z]/.test(node.text)) add(node, node.text);
      } else if (ts.isTemplateExpression(node)) {
        const text = node.templateSpans.map((span, i) => `\${${i}}${span.literal.text}`).join('');
        add(
          node,
          node.head.text + text,
          node.templateSpans.map((span) => span.expression.getText(source)),
        );
        for (const span of node.templateSpans) visit(span.expression);
        return;
      }
      ts.forEachChild(node, visit);
    };
    visit(source);
  }
  return found;
}
