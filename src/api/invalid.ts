import type { z } from 'zod';

/** "speakingLengthMm" as one would say it: "speaking length mm". */
const spoken = (name: string): string => name.replace(/([a-z])([A-Z])/g, '$1 $2').toLowerCase();

/** The field an issue is about, in words; with its place where there are several. */
function fieldOf(path: readonly PropertyKey[]): string {
  const names = path.filter((part): part is string => typeof part === 'string');
  const place = path.find((part): part is number => typeof part === 'number');
  const name = spoken(names.at(-1) ?? '').replace(/ (id|ids)$/, '');
  return [place === undefined ? '' : `line ${place + 1}`, name].filter(Boolean).join(', ');
}

function wants(issue: z.core.$ZodIssue): string {
  switch (issue.code) {
    case 'invalid_type':
      return issue.expected === 'number' || issue.expected === 'int' ? 'enter a number' : 'missing or not valid';
    case 'too_small':
      return issue.origin === 'string'
        ? `at least ${issue.minimum} ${issue.minimum === 1 ? 'letter' : 'letters'}`
        : issue.origin === 'array'
          ? `at least ${issue.minimum}`
          : `${issue.inclusive ? 'at least' : 'more than'} ${issue.minimum}`;
    case 'too_big':
      return issue.origin === 'string' ? `at most ${issue.maximum} characters` : `at most ${issue.maximum}`;
    case 'invalid_value':
      return `choose one of ${issue.values.slice(0, 12).join(', ')}`;
    case 'invalid_union':
      return issue.errors[0]?.[0] ? wants(issue.errors[0][0]) : 'not valid';
    case 'custom':
    case 'invalid_format':
      return issue.message;
    default:
      return 'not valid';
  }
}

/** What is wrong with a request, field by field, in words. */
export function sayInvalid(error: z.ZodError): string {
  const says = error.issues.slice(0, 6).map((issue) => {
    const field = fieldOf(issue.path);
    return field ? `${field}: ${wants(issue)}` : wants(issue);
  });
  const text = says.join('; ');
  return `${text.charAt(0).toUpperCase()}${text.slice(1)}.`;
}
