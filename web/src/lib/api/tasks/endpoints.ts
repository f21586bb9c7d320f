import { z } from 'zod';
import { defineEndpoint } from '../define';
import { TaskRecord, TaskRequest, TasksResponse } from './schemas';

export const listTasks = defineEndpoint({
  method: 'GET',
  path: '/tasks',
  access: 'open',
  summary: 'Long work: the latest tasks',
  response: TasksResponse,
});

export const startTask = defineEndpoint({
  method: 'POST',
  path: '/tasks',
  access: 'open',
  summary: 'Derives fits and measures anew, or writes a table as a file',
  body: TaskRequest,
  response: TaskRecord,
  creates: true,
  status: 202,
});

export const getTask = defineEndpoint({
  method: 'GET',
  path: '/tasks/{id}',
  access: 'open',
  summary: 'One task',
  response: TaskRecord,
  example: { path: { id: '1' } },
});

export const taskFile = defineEndpoint({
  method: 'GET',
  path: '/tasks/{id}/file',
  access: 'open',
  summary: 'The file that a task has made',
  response: z.unknown(),
  answers: 'file',
});

export const cancelTask = defineEndpoint({
  method: 'POST',
  path: '/tasks/{id}/cancel',
  access: 'open',
  summary: 'Stops a task',
  response: TaskRecord,
});
