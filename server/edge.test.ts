import { expect, it } from 'vitest';
import { keepTrusted } from './edge';

const asked = (headers: Record<string, string | string[]>, proxy: boolean) => {
  const request = { headers: { ...headers }, socket: { remoteAddress: '192.0.2.1' } };
  keepTrusted(request, { proxy });
  return request.headers;
};
const WRITTEN = {
  'x-forwarded-for': '203.0.113.9, 198.51.100.7',
  'x-forwarded-proto': 'http, https',
  'x-forwarded-host': 'evil.example',
  'x-real-ip': '203.0.113.9',
  forwarded: 'for=203.0.113.9',
  host: 'localhost',
};

it('who asks is the socket, and what the proxy saw only where there is one', () => {
  expect(asked(WRITTEN, false)).toEqual({
    host: 'localhost',
    'x-forwarded-for': '192.0.2.1',
    'x-forwarded-proto': 'http',
  });
  expect(asked(WRITTEN, true)).toEqual({
    host: 'localhost',
    'x-forwarded-for': '198.51.100.7',
    'x-forwarded-proto': 'https',
  });
  // What is no address is none, and a proxy that says nothing is the one that asks.
  expect(asked({ 'x-forwarded-for': '203.0.113.9, nonsense' }, true)['x-forwarded-for']).toBe('192.0.2.1');
  expect(asked({}, true)).toEqual({ 'x-forwarded-for': '192.0.2.1', 'x-forwarded-proto': 'http' });
});
