import type { components } from "./schema.gen";

type Schemas = components["schemas"];

export type SessionLabel = Schemas["SessionView"];
export type Inventory = Schemas["InventoryView"];
export type FileEntry = Schemas["FileView"];
export type Weight = Schemas["WeightView"];
export type Standing = Schemas["Standing"];
export type Use = Schemas["FileUse"];
export type Shelf = Schemas["ShelfView"];
export type ShelfKind = Schemas["ShelfKind"];
export type Folder = Schemas["FolderView"];
export type Plan = Schemas["PlanView"];
export type PlanStep = Schemas["StepView"];
export type Place = Schemas["PlaceView"];
export type Job = Schemas["JobView"];
export type HistoryEntry = Schemas["HistoryView"];
export type Notice = Schemas["NoticeView"];
export type Bundle = Schemas["BundleView"];
export type SetUpChoice = Schemas["SetUpChoice"];
export type SetUpView = Schemas["SetUpView"];
export type Settings = Schemas["SettingsChoice"];
export type NamePart = Schemas["NamePartChoice"];
export type NamePartKind = Schemas["NamePartKind"];
export type Preset = Schemas["Preset"];
export type Budget = Schemas["BudgetView"];
export type VersionNaming = Schemas["VersionNaming"];
export type BundleChoice = Schemas["BundleChoice"];
