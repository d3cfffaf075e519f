/** The pictures that something still is: a photograph, or words by a label that nobody has looked at yet. */
export const WANTED = `select hash from photo where removed_at is null
  union select hash from said where taken_at is null and hash is not null`;
