/**
 * Structure: the legs in hand, which several views share. Imports the core, data, formats and working.
 */
export { isSame, legValues, legWords, pickedStructure, withLeg, type PickedStructure } from './picked';
export { structureWork, type StructureGiven } from './work';
