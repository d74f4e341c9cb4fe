<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

/** The catalog's bulk tables: no foreign keys, names are bytes. See docs/decisions/0003-catalog-keys.md. */
return new class extends Migration
{
    public function up(): void
    {
        // One row per distinct path. id is a hash of the workload and the whole path; parent_id 0 is the top.
        DB::statement(<<<'SQL'
            CREATE TABLE paths (
                id BIGINT NOT NULL PRIMARY KEY,
                workload_id BIGINT UNSIGNED NOT NULL,
                parent_id BIGINT NOT NULL,
                name VARBINARY(4096) NOT NULL,
                name_id BIGINT NOT NULL,
                UNIQUE KEY parent_name (parent_id, name_id),
                KEY names (name_id)
            ) ENGINE=InnoDB COMMENT='one row per distinct path of a workload'
            SQL);
        // One row per distinct name of any path, with the form that "contains, any case" looks in.
        DB::statement(<<<'SQL'
            CREATE TABLE names (
                id BIGINT NOT NULL PRIMARY KEY,
                name VARBINARY(4096) NOT NULL,
                folded VARCHAR(4096) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL
            ) ENGINE=InnoDB COMMENT='distinct names, scanned by find'
            SQL);
        // One row per version: what a path was from `first` until (exclusive) `until`, both instants of sets.
        // Children of a folder at t: parent_id = ? AND until > t AND first <= t (parent_span).
        // The versions of one path: path_id (path_span). The whole tree at t: history_id, until > t (history_span).
        // Which versions hold a content that was lost: content.
        DB::statement(<<<'SQL'
            CREATE TABLE versions (
                id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                history_id BIGINT UNSIGNED NOT NULL,
                parent_id BIGINT NOT NULL,
                path_id BIGINT NOT NULL,
                first BIGINT NOT NULL,
                until BIGINT NOT NULL,
                kind CHAR(1) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
                size BIGINT NOT NULL,
                mtime BIGINT NOT NULL,
                digest BINARY(32) NULL,
                attributes VARBINARY(8192) NOT NULL,
                KEY parent_span (parent_id, until, first),
                KEY path_span (path_id, first),
                KEY history_span (history_id, until, first),
                KEY content (digest(8))
            ) ENGINE=InnoDB COMMENT='what a path was, from first until until'
            SQL);
        // Totals of a folder: kind 0 is the difference a set made, kind 1 the whole at a checkpoint.
        DB::statement(<<<'SQL'
            CREATE TABLE folder_totals (
                path_id BIGINT NOT NULL,
                history_id BIGINT UNSIGNED NOT NULL,
                instant BIGINT NOT NULL,
                kind TINYINT NOT NULL,
                files BIGINT NOT NULL,
                bytes BIGINT NOT NULL,
                PRIMARY KEY (path_id, history_id, instant, kind)
            ) ENGINE=InnoDB COMMENT='files and bytes below a folder, as differences with checkpoints'
            SQL);
    }
};
