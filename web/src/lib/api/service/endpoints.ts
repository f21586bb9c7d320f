import { defineEndpoint } from '../define';
import { Health } from './schemas';

export const health = defineEndpoint({
  method: 'GET',
  path: '/health',
  access: 'open',
  summary: 'Whether the application and its database answer',
  response: Health,
});
