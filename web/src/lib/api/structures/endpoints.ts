import { defineEndpoint } from '../define';
import { AsofQuery } from '../shared';
import { StructureChange, StructureRequest, StructuresResponse } from './schemas';

export const listStructures = defineEndpoint({
  method: 'GET',
  path: '/structures',
  access: 'open',
  summary: 'Structures that are kept, with what they are worth on the curve at a moment',
  query: AsofQuery,
  response: StructuresResponse,
  csv: 'structures',
});

export const keepStructure = defineEndpoint({
  method: 'POST',
  path: '/structures',
  access: 'open',
  summary: 'Keeps a structure at what it is worth',
  body: StructureRequest,
  response: StructuresResponse,
  creates: true,
});

export const changeStructure = defineEndpoint({
  method: 'PUT',
  path: '/structures/{id}',
  access: 'open',
  summary: 'Changes how many there are of a structure, or what is noted of it',
  body: StructureChange,
  response: StructuresResponse,
});

export const deleteStructure = defineEndpoint({
  method: 'DELETE',
  path: '/structures/{id}',
  access: 'open',
  summary: 'Deletes a structure',
  response: StructuresResponse,
});

export const restoreStructure = defineEndpoint({
  method: 'POST',
  path: '/structures/{id}/restore',
  access: 'open',
  summary: 'Brings back a structure that was deleted',
  response: StructuresResponse,
});
