/// <reference types="astro/client" />

declare namespace App {
  interface Locals {
    db: import('../server/db/connection').Db;
    programme: import('../server/programme/programme').Programme;
    people: import('../server/programme/programme').Person[];
    places: import('../server/programme/programme').Place[];
    /** Who is acting; null until someone is chosen. */
    person: import('../server/programme/programme').Person;
    now: number;
    today: string;
    horizon: string;
    theme: 'workshop' | 'dusk' | null;
  }
}
