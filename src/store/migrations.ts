/** The tables, step by step; a step that has been released never changes. */
import { DataTypes, QueryTypes, type QueryInterface } from 'sequelize';
import { namesIn } from './assets.js';
import { cardOf } from './card.js';

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
  {
    name: '0004-cards',
    up: async ({ context }) => {
      const text = (defaultValue: string) => ({ type: DataTypes.TEXT, allowNull: false, defaultValue });
      await context.addColumn('documents', 'card', text('{}'));
      await context.addColumn('documents', 'assets', text(''));
      await context.addColumn('revisions', 'assets', text(''));
      // One document after another: together they may be larger than memory.
      const { sequelize } = context;
      const select = { type: QueryTypes.SELECT, raw: true } as const;
      for (const { id } of await sequelize.query<{ id: string }>('SELECT id FROM documents', select)) {
        const [row] = await sequelize.query<{ format: 'effect' | 'stage'; document: string }>(
          'SELECT format, document FROM documents WHERE id = :id',
          { ...select, replacements: { id } },
        );
        const card = cardOf(row!.format, row!.document);
        const assets = namesIn(row!.document).join(' ');
        await sequelize.query('UPDATE documents SET card = :card, assets = :assets WHERE id = :id', {
          replacements: { id, card, assets },
        });
      }
      for (const { id } of await sequelize.query<{ id: number }>('SELECT id FROM revisions', select)) {
        const [row] = await sequelize.query<{ document: string }>('SELECT document FROM revisions WHERE id = :id', {
          ...select,
          replacements: { id },
        });
        const assets = namesIn(row!.document).join(' ');
        if (assets)
          await sequelize.query('UPDATE revisions SET assets = :assets WHERE id = :id', { replacements: { id, assets } });
      }
      await context.addIndex('documents', ['format', 'updatedAt', 'id']);
    },
  },
  {
    name: '0005-motifs',
    up: async ({ context }) => {
      await context.createTable('motifs', {
        id: { type: DataTypes.STRING(64), primaryKey: true },
        name: { type: DataTypes.STRING(80), allowNull: false },
        document: { type: DataTypes.TEXT, allowNull: false },
        updatedAt: { type: DataTypes.DATE, allowNull: false },
      });
    },
  },
  {
    name: '0006-kept',
    up: ({ context }) => context.addColumn('documents', 'kept', { type: DataTypes.TEXT, allowNull: false, defaultValue: '' }),
  },
];
