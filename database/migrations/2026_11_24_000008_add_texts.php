<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

/** Words in contents. See docs/decisions/0017-search.md. */
return new class extends Migration
{
    public function up(): void
    {
        // One row per content that was looked into, whoever has it; NULL where there are no words in it.
        DB::statement(<<<'SQL'
            CREATE TABLE texts (
                digest BINARY(32) NOT NULL PRIMARY KEY,
                words MEDIUMTEXT CHARACTER SET utf8mb4 NULL,
                FULLTEXT KEY words (words)
            ) ENGINE=InnoDB COMMENT='the text of contents, to be searched'
            SQL);
        // Versions up to this id were looked at.
        DB::statement(<<<'SQL'
            CREATE TABLE text_marks (
                workload_id BIGINT UNSIGNED NOT NULL PRIMARY KEY,
                version_id BIGINT UNSIGNED NOT NULL
            ) ENGINE=InnoDB COMMENT='how far the contents of a workload were looked into'
            SQL);
    }
};
