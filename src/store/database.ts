import type { SceneShape } from '../core/mesh/scene';
import type { FoundUse } from '../core/estimate/own/guess';
import type { NetworkUse } from '../core/need/networkUse';
import Dexie, { type DexieOptions, type Table } from 'dexie';

export interface ProjectRow {
  id: string;
  name: string;
  /** the document as plain JSON; parsed and migrated on load */
  document: unknown;
  /** grows with every save: a tab that knows an older one must not overwrite */
  revision: number;
  updatedAt: number;
  deletedAt: number | null;
}

export interface MediaRow {
  sha256: string;
  name: string;
  blob: Blob;
  /** when it was first seen that no project refers to it; absent where one does */
  unusedSince?: number;
}

/** A computed depth frame, addressed by its content key. */
export interface MapRow {
  key: string;
  width: number;
  height: number;
  data: ArrayBuffer;
}

export interface ThumbRow {
  /** the shot's id */
  shot: string;
  blob: Blob;
}

/** An export of frames that has been begun, as it was asked for; its finished pieces lie beside it. */
export interface ExportRow {
  /** the content key of what it makes: the same export asked for again goes on */
  id: string;
  project: string;
  shot: string;
  /** file name */
  name: string;
  /** the request and the clip as plain JSON */
  request: unknown;
  clip: unknown;
  begunAt: number;
}

export interface PieceRow {
  /** the export's id */
  export: string;
  index: number;
  blob: Blob;
}

/** A look that was saved: plain JSON, read by its own schema. */
export interface LookRow {
  id: string;
  look: unknown;
  savedAt: number;
}

/** The shape of a shot's scene that was made for a mesh, for other shots of its framing. */
export interface ShapeRow {
  /** the shot's id */
  shot: string;
  /** px of the picture that it was made of */
  width: number;
  height: number;
  shape: SceneShape;
}

/** A network of somebody's own, for every project in this browser. */
export interface NetworkRow {
  sha256: string;
  name: string;
  blob: Blob;
  addedAt: number;
  /** how it is asked, as far as its file tells */
  found: FoundUse;
  /** how somebody chose that it is asked; null until then */
  use: NetworkUse | null;
  /** what a run took last, s */
  seconds: number | null;
}

/** Something that happened once in this browser. */
export interface MarkRow {
  name: string;
}

export class Database extends Dexie {
  projects!: Table<ProjectRow, string>;
  media!: Table<MediaRow, string>;
  maps!: Table<MapRow, string>;
  thumbs!: Table<ThumbRow, string>;
  marks!: Table<MarkRow, string>;
  looks!: Table<LookRow, string>;
  exports!: Table<ExportRow, string>;
  pieces!: Table<PieceRow, [string, number]>;
  shapes!: Table<ShapeRow, string>;
  networks!: Table<NetworkRow, string>;

  constructor(name = 'ombrage', options: DexieOptions = {}) {
    super(name, options);
    this.version(1).stores({ projects: 'id, updatedAt, deletedAt', media: 'sha256', maps: 'key', thumbs: 'shot' });
    this.version(2).stores({ marks: 'name' });
    this.version(3).stores({ exports: 'id, shot', pieces: '[export+index], export' });
    this.version(4).stores({ looks: 'id, savedAt' });
    this.version(5).stores({ shapes: 'shot' });
    this.version(6).stores({ networks: 'sha256, addedAt' });
  }
}

let opened: Database | null = null;

/** This browser's one database. */
export const database = (): Database => (opened ??= new Database());
