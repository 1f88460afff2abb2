import { words, type With } from './words.ts'

/** Of objects and their links. */
export const CROSSWALK_FINDINGS = {
  AXION_ALIGN_ABSENT: words('stops', {
    title: 'Not held by a system',
    says: (f: With<'system' | 'name'>) => `${f['system']} holds nothing for ${f['name']}.`,
    means: 'A document that needs it cannot be charged or booked there.',
    mend: 'Create it in the system, or link the object that stands for it under another name.',
  }),
  AXION_ALIGN_EXTRA: words('settle', {
    title: 'Unknown to the baseline',
    says: (f: With<'system' | 'name'>) =>
      `${f['system']} holds ${f['name']}, and nothing in the baseline is linked to it.`,
    means: 'Whatever uses it is judged by nothing.',
    mend: 'Link it to what it stands for, take it into the baseline, or switch it off in the system.',
  }),
  AXION_ALIGN_NOT_LINKED: words('settle', {
    title: 'Proposed, not linked',
    says: (f: With<'theirs' | 'system' | 'name'>) =>
      `${f['theirs']} in ${f['system']} looks like ${f['name']}.`,
    means: 'A proposal is no fact: tax is not mapped through it.',
    mend: 'Accept the link, or link another object.',
  }),
  AXION_ALIGN_UNDECIDED: words('settle', {
    title: 'Two candidates',
    says: (f: With<'theirs' | 'system' | 'names'>) =>
      `${f['theirs']} in ${f['system']} could be ${f['names']}.`,
    means: 'The evidence is equal; nobody but you can tell.',
    mend: 'Choose what it is.',
  }),
  AXION_ALIGN_TWICE: words('costs', {
    title: 'Two to one',
    says: (f: With<'system' | 'theirs' | 'name'>) =>
      `${f['system']} holds ${f['theirs']} for one ${f['name']}.`,
    means: 'Documents go to either, and a change of one leaves the other behind.',
    mend: 'Keep one of them in use, and link or switch off the other.',
  }),
  AXION_ALIGN_STALE_LINK: words('stops', {
    title: 'Link to nothing',
    says: (f: With<'object' | 'system' | 'name'>) =>
      `The link of ${f['object']} in ${f['system']} leads to ${f['name']}, which is not there any more.`,
    means: 'What was linked is gone on one side.',
    mend: 'Take the link back, and link what has taken its place.',
  }),
  AXION_ALIGN_NAME: words('settle', {
    title: 'Nearly the same name',
    says: (f: With<'system' | 'name' | 'theirs'>) => `${f['system']} calls ${f['name']} “${f['theirs']}”.`,
    means:
      'Whoever looks by name finds only one of them; a system that needs names to match exactly finds neither.',
    mend: 'Give it the baseline’s name there, or take the system’s name into the baseline.',
  }),
}
