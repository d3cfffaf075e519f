/// <reference types="astro/client" />

declare namespace App {
  interface Locals {
    db: import('../server/db/connection').Db;
    programme: import('../server/programme/programme').Programme;
    /** Who is signed in, and by which session. */
    session: import('../server/access/sessions').Session;
    /** Who is acting. */
    person: import('../server/programme/programme').Person;
    /** The number of this request, as the log and the pages for errors tell it. */
    request: string;
    now: number;
    today: string;
    horizon: string;
    theme: 'workshop' | 'dusk' | null;
  }
}
