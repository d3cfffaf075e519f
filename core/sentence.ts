/** A text that begins a sentence. @example `capital('two strings')` is "Two strings" */
export const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

/** A sentence that goes on after a colon. @example `lowerFirst('Only 17 mm to spare.')` is "only 17 mm to spare." */
export const lowerFirst = (text: string): string => text.charAt(0).toLowerCase() + text.slice(1);
