import { z } from 'zod';
import { num } from './basics';

/** Long rather than full of signs (NIST SP 800-63B, 3.1.1.2: at least eight signs, no rules of composition). */
export const LEAST_PASSWORD = 10;
export const Password = z
  .string()
  .min(LEAST_PASSWORD, `at least ${LEAST_PASSWORD} characters; three unrelated words work well`)
  .max(200);
const Pin = z.string().regex(/^\d{4,8}$/, 'use four to eight digits');
const Name = z.string().trim().min(1).max(60);
/** An origin no programme has: what does not stay on it leads somewhere else. */
const HERE = 'http://here.invalid';

/**
 * Where to go after signing in: a path of this programme as a browser understands it, with its query; anything that a
 * browser would take elsewhere becomes "/".
 * @example `Next.parse('/plan?week=2')` is "/plan?week=2", `Next.parse('/\t/evil.example')` is "/"
 */
export const Next = z
  .string()
  .max(400)
  .transform((asked) => {
    const to = asked.startsWith('/') && URL.canParse(asked, HERE) ? new URL(asked, HERE) : null;
    return to?.origin === HERE && !to.pathname.startsWith('//') ? `${to.pathname}${to.search}` : '/';
  })
  .catch('/');

export const SignInShape = z.object({ name: Name, password: z.string().min(1).max(200), next: Next.default('/') });
/** A code that was given by hand; it is used once and chooses a password. */
export const CodeShape = z.object({ code: z.string().trim().min(4).max(40), password: Password });
/** Somebody else takes a bench that several share. */
export const SwitchShape = z.object({ personId: num(z.int()), pin: Pin, next: Next.default('/') });
/** What has to come back from a district's sign-in as it went. */
export const LeavingShape = z.object({
  state: z.string().min(20).max(200),
  nonce: z.string().min(20).max(200),
  verifier: z.string().min(40).max(200),
  next: Next,
});

/** Who stood by; their digits where somebody else is signed in. */
export const StoodByShape = z.object({
  personId: num(z.int()).optional(),
  pin: z.union([Pin, z.literal('')]).default(''),
});
/** One of the demo’s people; only a demo answers it. */
export const DemoShape = z.object({ personId: num(z.int()), next: Next.default('/') });

export const ChangePasswordShape = z.object({ current: z.string().min(1).max(200), password: Password });
export const SetPinShape = z.object({ password: z.string().min(1).max(200), pin: z.union([Pin, z.literal('')]) });
export const EndSessionShape = z.object({ sessionId: z.union([z.literal('others'), num(z.int())]) });
export const GiveCodeShape = z.object({ personId: num(z.int()) });

/** How the district's sign-in knows somebody: mostly an e-mail address. */
export const DistrictNameShape = z.object({ personId: num(z.int()), districtName: z.string().trim().max(120) });

export const EnrolShape = z.object({ name: z.string().trim().min(2).max(60) });
export const EndDeviceShape = z.object({ deviceId: num(z.int()) });
export const FeedShape = z
  .object({ personId: num(z.int()).optional(), placeId: num(z.int()).optional() })
  .refine((p) => (p.personId === undefined) !== (p.placeId === undefined), 'choose one person or one place');
export const EndFeedShape = z.object({ feedId: num(z.int()) });
