import { toErrorData } from '#core/errors';
import { planToRun, solveOf } from '#core/shot';
import { readDatabase } from '#server/db';
import { codeVersion } from '#server/engine';
import { Learning } from './learning';
import type { Answers, Question, ThinkingReply, ThinkingRequest, ThinkingStart } from './questions';

/** The body of the thinking thread; returns what takes a message. Questions are answered one after the other. */
export async function thinkMain(
  { database, threads }: ThinkingStart,
  send: (reply: ThinkingReply) => void,
): Promise<(request: ThinkingRequest) => void> {
  const learning = new Learning(await readDatabase(database), { threads, codeVersion });
  let last = Promise.resolve();
  return (request) => {
    if (request.kind === 'forget') {
      learning.forget();
      return;
    }
    const { id, question } = request;
    last = last.then(async () => {
      try {
        send({ id, answer: await answerTo(question, learning) });
      } catch (error) {
        send({ id, error: toErrorData(error) });
      }
    });
  };
}

async function answerTo(question: Question, learning: Learning): Promise<Answers[Question['kind']]> {
  switch (question.kind) {
    case 'evidence':
      return JSON.stringify(await learning.evidence(question.shotId));
    case 'plan': {
      const plan = planToRun(question.fields, solveOf(question.settings), question.rung);
      return { plan, ...(await learning.predict(question.shotId, plan)) };
    }
    case 'predict':
      return await learning.predict(question.shotId, question.plan);
  }
}
