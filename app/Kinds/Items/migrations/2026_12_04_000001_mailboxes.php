<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    public function up(): void
    {
        DB::statement(<<<'SQL'
            CREATE TABLE item_mailboxes (
                workload_id BIGINT UNSIGNED NOT NULL,
                mailbox VARCHAR(300) NOT NULL,
                PRIMARY KEY (workload_id, mailbox)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin COMMENT='the names among item_folders, each once'
            SQL);
        DB::statement('INSERT INTO item_mailboxes SELECT DISTINCT workload_id, mailbox FROM item_folders');
    }
};
