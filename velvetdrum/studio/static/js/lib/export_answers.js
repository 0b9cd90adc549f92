// What the server says of exports before they are made: whether a channel takes them, how long they take, how large
// they become.

import { ask } from "./api.js";
import { without } from "./json_patch.js";

/**
 * What a channel would refuse of exports, each sentence once.
 * @param {string} project its id
 * @param {any[]} bodies what is asked for, one of each file
 * @param {string} channel
 */
export async function refusals(project, bodies, channel) {
  /** @type {string[]} */
  const result = [];
  for (const body of bodies) {
    const json = { ...without(body, "name"), channel };
    const { problems } = await ask(`/projects/${project}/fitting`, { json });
    for (const problem of problems) if (!result.includes(problem)) result.push(problem);
  }
  return result;
}

/**
 * Seconds and bytes of all of them, and the bytes that are free; null where another question came meanwhile.
 * @param {{ id: string; revision: number }} state of the project
 * @param {any[]} bodies what is asked for, one of each file
 * @param {Map<string, any>} known answers of before, by what was asked
 * @param {{ isAsked: () => boolean; asking: () => void }} on whether the answer is still wanted; one is asked for
 */
export async function estimated(state, bodies, known, on) {
  const sum = { seconds: 0, bytes: 0, free: 0 };
  for (const body of bodies) {
    const json = without(body, "name");
    const key = JSON.stringify([state.revision, json]);
    if (!known.has(key)) {
      on.asking();
      known.set(key, await ask(`/projects/${state.id}/estimate`, { json }));
    }
    if (!on.isAsked()) return null;
    const answer = known.get(key);
    sum.seconds += answer.seconds;
    sum.bytes += answer.bytes;
    sum.free = answer.free_bytes;
  }
  return sum;
}
