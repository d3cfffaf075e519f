/** What the store of the bench is called in this browser, known apart from what opens it. */
export const KEPT_NAME = 'arvick';
