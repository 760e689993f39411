import { expect, test } from 'vitest';
import { Place } from './place';

test('frames that come late do not take back what keys asked for', () => {
  const place = new Place(0);
  const heard: number[] = [];
  const end = place.subscribe(() => heard.push(place.frame()));
  place.ask(10);
  place.ask(20);
  place.seen(10);
  expect(place.frame()).toBe(20);
  place.seen(20);
  place.seen(21);
  expect(place.frame()).toBe(21);
  expect(heard).toEqual([10, 20, 21]);
  // What is asked for beyond a part's end is never seen: play goes on from where it is.
  place.ask(99);
  place.free();
  place.seen(30);
  expect(place.frame()).toBe(30);
  end();
  place.ask(31);
  expect(heard).toEqual([10, 20, 21, 99, 30]);
});
