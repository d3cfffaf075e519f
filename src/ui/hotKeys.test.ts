import { expect, test } from 'vitest';
import { pressed } from './hotKeys';

/** A key as a browser tells of it, on something that matches some selectors. */
function key(name: string, { on = '', ...more }: Partial<KeyboardEvent> & { on?: string } = {}) {
  let prevented = false;
  const held = new Set(
    [more.shiftKey && 'Shift', more.ctrlKey && 'Control', more.altKey && 'Alt', more.metaKey && 'Meta'].filter(Boolean),
  );
  const event = {
    key: name,
    code: name === ' ' ? 'Space' : '',
    repeat: false,
    isComposing: false,
    getModifierState: (modifier: string) => held.has(modifier),
    preventDefault: () => {
      prevented = true;
    },
    target: { closest: (selectors: string) => (on && selectors.split(', ').includes(on) ? {} : null) },
    ...more,
  } as unknown as KeyboardEvent;
  return { event, prevented: () => prevented };
}

function screen() {
  const done: string[] = [];
  const on = () => done.push('on');
  const keys = {
    Space: on,
    Enter: on,
    l: () => done.push('locked'),
    '?': () => done.push('help'),
    '([1-9])': (digit: string) => (digit === '9' ? false : done.push(`chose ${digit}`)),
  };
  const press = (name: string, more?: Parameters<typeof key>[1]) => {
    const k = key(name, more);
    const was = done.length;
    const answer = pressed(keys, k.event);
    return { did: done.slice(was), answer, prevented: k.prevented() };
  };
  return press;
}

test('a key does what it is there for, by name, digit or sign, also where a keyboard needs Shift for it', () => {
  const press = screen();
  expect(press(' ')).toEqual({ did: ['on'], answer: true, prevented: true });
  expect(press('l').did).toEqual(['locked']);
  expect(press('L', { shiftKey: true }).did).toEqual(['locked']);
  expect(press('?', { shiftKey: true }).did).toEqual(['help']);
  expect(press('3').did).toEqual(['chose 3']);
  expect(press('3', { shiftKey: true }).did).toEqual(['chose 3']);
  expect(press('0')).toEqual({ did: [], answer: false, prevented: false });
  // It had nothing to do: the browser goes on.
  expect(press('9')).toEqual({ did: [], answer: false, prevented: false });
});

test('a key held down is one press, and the browser does nothing with it either', () => {
  const press = screen();
  expect(press(' ', { repeat: true })).toEqual({ did: [], answer: true, prevented: true });
});

test('nothing is done while somebody types, another key is held, or a focused button means the key', () => {
  const press = screen();
  const nothing = { did: [], answer: false, prevented: false };
  for (const on of ['input', 'textarea', 'select', '[contenteditable]', '[data-own-keys]', 'dialog[open]'])
    expect(press('l', { on })).toEqual(nothing);
  for (const held of [{ ctrlKey: true }, { metaKey: true }, { altKey: true }])
    expect(press('l', held)).toEqual(nothing);
  for (const on of ['button', 'a', 'summary']) {
    expect(press(' ', { on })).toEqual(nothing);
    expect(press('Enter', { on })).toEqual(nothing);
    expect(press('l', { on }).did).toEqual(['locked']);
  }
  expect(press('l', { isComposing: true })).toEqual(nothing);
  expect(press('', {})).toEqual(nothing);
});
