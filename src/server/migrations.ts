/** The tables, step by step; a step that has been released never changes. */
import { DataTypes, type QueryInterface } from 'sequelize';

interface Step {
  readonly name: string;
  readonly up: (params: { context: QueryInterface }) => Promise<void>;
}

export const MIGRATIONS: Step[] = [
  {
    name: '0001-documents',
    up: async ({ context }) => {
      const times = {
        createdAt: { type: DataTypes.DATE, allowNull: false },
        updatedAt: { type: DataTypes.DATE, allowNull: false },
      };
      const documentId = {
        type: DataTypes.STRING(64),
        allowNull: false,
        references: { model: 'documents', key: 'id' },
        onDelete: 'CASCADE',
      };
      await context.createTable('documents', {
        id: { type: DataTypes.STRING(64), primaryKey: true },
        format: { type: DataTypes.STRING(16), allowNull: false },
        name: { type: DataTypes.STRING(120), allowNull: false },
        version: { type: DataTypes.INTEGER, allowNull: false },
        document: { type: DataTypes.TEXT, allowNull: false },
        archived: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
        ...times,
      });
      await context.createTable('revisions', {
        id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
        documentId,
        document: { type: DataTypes.TEXT, allowNull: false },
        client: { type: DataTypes.STRING(64), allowNull: false },
        name: { type: DataTypes.STRING(120), allowNull: true },
        open: { type: DataTypes.BOOLEAN, allowNull: false },
        ...times,
      });
      await context.addIndex('revisions', ['documentId', 'id']);
      await context.createTable('saves', {
        saveId: { type: DataTypes.STRING(64), primaryKey: true },
        documentId,
        version: { type: DataTypes.INTEGER, allowNull: false },
        savedAt: { type: DataTypes.STRING(32), allowNull: false },
        createdAt: { type: DataTypes.DATE, allowNull: false },
      });
    },
  },
  {
    name: '0002-strips',
    up: async ({ context }) => {
      await context.createTable('strips', {
        documentId: {
          type: DataTypes.STRING(64),
          primaryKey: true,
          references: { model: 'documents', key: 'id' },
          onDelete: 'CASCADE',
        },
        key: { type: DataTypes.STRING(120), allowNull: false },
        bytes: { type: DataTypes.BLOB, allowNull: false },
        updatedAt: { type: DataTypes.DATE, allowNull: false },
      });
    },
  },
  {
    name: '0003-shared',
    up: async ({ context }) => {
      await context.createTable('shared', {
        id: { type: DataTypes.STRING(64), primaryKey: true },
        name: { type: DataTypes.STRING(80), allowNull: false },
        value: { type: DataTypes.TEXT, allowNull: false },
        updatedAt: { type: DataTypes.DATE, allowNull: false },
      });
    },
  },
];
