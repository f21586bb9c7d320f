/**
 * Structure: the legs in hand, which several views share. Imports the core, data, formats and working.
 */
export { aroundLegs, type LegsAround } from './around';
export { isSame, legValues, legWords, pickedStructure, withLeg, type PickedStructure } from './picked';
export { straddleOf } from './straddle';
export { structureWork, type StructureGiven } from './work';
