/** "1 instrument", "2 instruments"; what forms its plural otherwise says it. */
export const count = (n: number, one: string, more = `${one}s`): string => `${n} ${n === 1 ? one : more}`;
