import { createHash } from 'node:crypto';

/** An entry of who did what, as far as the chain is made over it. */
export interface Chained {
  at: number;
  person_id: number;
  action: string;
  entity: string;
  entity_id: number;
  idempotency_key: string;
  from_where: string;
  detail_hash: string;
  prev_hash: string;
}

const sha = (text: string): string => createHash('sha256').update(text).digest('base64url');

/**
 * What stands in an entry beside the bare fact that something was done. The chain is made over this hash of it, so that
 * a name can be erased from an entry and the chain still shows that nothing else was changed.
 */
export const detailHash = (entry: { detail: string; changed?: string }): string =>
  sha(`${entry.detail}\n${entry.changed ?? ''}`);

/** SHA-256 over an entry and the hash of the entry before it: whoever changes or takes out one breaks all that follow. */
export const chainHash = (e: Chained): string =>
  sha(
    JSON.stringify([
      e.prev_hash,
      e.at,
      e.person_id,
      e.action,
      e.entity,
      e.entity_id,
      e.idempotency_key,
      e.from_where ?? '',
      e.detail_hash,
    ]),
  );
