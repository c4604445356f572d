/** The tables, as Sequelize models. */
import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';

/** An effect or a stage as it is now. */
export class DocumentRow extends Model<InferAttributes<DocumentRow>, InferCreationAttributes<DocumentRow>> {
  declare id: string;
  declare format: 'effect' | 'stage';
  declare name: string;
  declare version: number;
  declare document: string;
  declare archived: CreationOptional<boolean>;
  /** What lists show of it, as JSON (`cards.ts`): made when it is saved, so that a list reads no document. */
  declare card: CreationOptional<string>;
  /** SHA-256 names of the files it refers to, parted by spaces. */
  declare assets: CreationOptional<string>;
  /** Those that steps of undo may bring back, as whoever saved it last has them. */
  declare kept: CreationOptional<string>;
  declare createdAt: CreationOptional<Date>;
  declare updatedAt: CreationOptional<Date>;
}

/** What a document was at the end of a sitting; the last one of a document may still be open. */
export class RevisionRow extends Model<InferAttributes<RevisionRow>, InferCreationAttributes<RevisionRow>> {
  declare id: CreationOptional<number>;
  declare documentId: string;
  declare document: string;
  declare client: string;
  declare name: string | null;
  declare open: boolean;
  declare assets: CreationOptional<string>;
  declare createdAt: CreationOptional<Date>;
  declare updatedAt: CreationOptional<Date>;
}

/** The answer given to a save, so that it can be given again when the first was lost. */
export class SaveRow extends Model<InferAttributes<SaveRow>, InferCreationAttributes<SaveRow>> {
  declare saveId: string;
  declare documentId: string;
  declare version: number;
  declare savedAt: string;
  declare createdAt: CreationOptional<Date>;
}

/** An effect's pictures for the Library, as one image; the key says of which versions. */
export class StripRow extends Model<InferAttributes<StripRow>, InferCreationAttributes<StripRow>> {
  declare documentId: string;
  declare key: string;
  declare bytes: Buffer;
  declare updatedAt: CreationOptional<Date>;
}

/** A shared dial: its value as JSON. */
export class SharedRow extends Model<InferAttributes<SharedRow>, InferCreationAttributes<SharedRow>> {
  declare id: string;
  declare name: string;
  declare value: string;
  declare updatedAt: CreationOptional<Date>;
}

/** A motif of the artist's own: its document as JSON. */
export class MotifRow extends Model<InferAttributes<MotifRow>, InferCreationAttributes<MotifRow>> {
  declare id: string;
  declare name: string;
  declare document: string;
  declare updatedAt: CreationOptional<Date>;
}

/** Gives the models their database. */
export function define(sequelize: Sequelize): void {
  DocumentRow.init(
    {
      id: { type: DataTypes.STRING(64), primaryKey: true },
      format: { type: DataTypes.STRING(16), allowNull: false },
      name: { type: DataTypes.STRING(120), allowNull: false },
      version: { type: DataTypes.INTEGER, allowNull: false },
      document: { type: DataTypes.TEXT, allowNull: false },
      archived: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
      card: { type: DataTypes.TEXT, allowNull: false, defaultValue: '{}' },
      assets: { type: DataTypes.TEXT, allowNull: false, defaultValue: '' },
      kept: { type: DataTypes.TEXT, allowNull: false, defaultValue: '' },
      createdAt: DataTypes.DATE,
      updatedAt: DataTypes.DATE,
    },
    { sequelize, tableName: 'documents' },
  );
  RevisionRow.init(
    {
      id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
      documentId: { type: DataTypes.STRING(64), allowNull: false },
      document: { type: DataTypes.TEXT, allowNull: false },
      client: { type: DataTypes.STRING(64), allowNull: false },
      name: { type: DataTypes.STRING(120), allowNull: true },
      open: { type: DataTypes.BOOLEAN, allowNull: false },
      assets: { type: DataTypes.TEXT, allowNull: false, defaultValue: '' },
      createdAt: DataTypes.DATE,
      updatedAt: DataTypes.DATE,
    },
    { sequelize, tableName: 'revisions' },
  );
  SaveRow.init(
    {
      saveId: { type: DataTypes.STRING(64), primaryKey: true },
      documentId: { type: DataTypes.STRING(64), allowNull: false },
      version: { type: DataTypes.INTEGER, allowNull: false },
      savedAt: { type: DataTypes.STRING(32), allowNull: false },
      createdAt: DataTypes.DATE,
    },
    { sequelize, tableName: 'saves', updatedAt: false },
  );
  StripRow.init(
    {
      documentId: { type: DataTypes.STRING(64), primaryKey: true },
      key: { type: DataTypes.STRING(120), allowNull: false },
      bytes: { type: DataTypes.BLOB, allowNull: false },
      updatedAt: DataTypes.DATE,
    },
    { sequelize, tableName: 'strips', createdAt: false },
  );
  SharedRow.init(
    {
      id: { type: DataTypes.STRING(64), primaryKey: true },
      name: { type: DataTypes.STRING(80), allowNull: false },
      value: { type: DataTypes.TEXT, allowNull: false },
      updatedAt: DataTypes.DATE,
    },
    { sequelize, tableName: 'shared', createdAt: false },
  );
  MotifRow.init(
    {
      id: { type: DataTypes.STRING(64), primaryKey: true },
      name: { type: DataTypes.STRING(80), allowNull: false },
      document: { type: DataTypes.TEXT, allowNull: false },
      updatedAt: DataTypes.DATE,
    },
    { sequelize, tableName: 'motifs', createdAt: false },
  );
}
