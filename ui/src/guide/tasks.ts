import list from './tasks.json';

/** A step of a task; the journey that tests the guide does what it says. */
export interface Step {
  say: string;
  at?: string;
  on: string;
  text?: string;
  type?: string;
  choose?: string;
  press?: string;
  look?: boolean;
  see?: string;
  shot?: string;
}

export interface Task {
  id: string;
  title: string;
  why: string;
  steps: Step[];
}

export const tasks: Task[] = list;

const files = import.meta.glob<string>('./pictures/*.webp', { eager: true, query: '?url', import: 'default' });

/** The picture of a task, made from the demo house. */
export const pictureOf = (t: Task) => files[`./pictures/${t.id}.webp`];

/** Where a step is, below the house, with what is meant there marked. */
export const shows = (t: Task, s: Step) => `${(s.at ?? '').slice(1)}#show=${t.id}.${t.steps.indexOf(s)}`;
