import {
  comparable,
  explainMove,
  contractPrice,
  exerciseBoundary,
  sideReading,
  solveInput,
  sweep,
  type BoundaryPoint,
  type Contract,
  type Input,
  type Move,
  type SideReading,
  type SolveTarget,
  type Solved,
  type SweepRequest,
} from '@umwelt/core';
import * as Comlink from 'comlink';

/** Prices contracts off the page's thread: early exercise and trees take longer than a frame. */
const worker = {
  read(call: Contract, put: Contract): { call: SideReading; put: SideReading } {
    return { call: sideReading(call), put: sideReading(put) };
  },

  prices(contracts: readonly Contract[]): number[] {
    return contracts.map((contract) => contractPrice(contract));
  },

  move(from: Contract, to: Contract): Move {
    return explainMove(from, to);
  },

  solve(contract: Contract, input: Input, target: SolveTarget): Solved {
    return solveInput(contract, input, target);
  },

  sweep(lines: readonly { contract: Contract; request: SweepRequest }[]): Float64Array[] {
    const curves = lines.map(({ contract, request }) => sweep(contract, request));
    return Comlink.transfer(
      curves,
      curves.map((curve) => curve.buffer as ArrayBuffer),
    );
  },

  boundary(contract: Contract): BoundaryPoint[] {
    return exerciseBoundary(contract);
  },

  compare(contract: Contract) {
    return comparable(contract).map(({ model, contract: other, note }) => ({
      model,
      note,
      reading: sideReading(other),
    }));
  },
};

export type PricerWorker = typeof worker;

Comlink.expose(worker);
