/** Types of a plan, an order, and what is captured. */
import type { components } from './schema';

type Schemas = components['schemas'];
export type Plan = Schemas['PlanView'];
export type Link = Schemas['Link'];
export type LinkView = Schemas['LinkView'];
export type Order = Schemas['OrderView'];
export type Step = Schemas['StepOfSheet'];
export type Rule = Schemas['RuleView'];
export type Recording = Schemas['RecordingView'];
export type Piece = Schemas['PieceView'];
export type ShelfImport = Schemas['ShelfImport'];
export type Spec = Schemas['SpecView'];
