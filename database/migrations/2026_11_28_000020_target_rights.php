<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('target_rights', function (Blueprint $table): void {
            $table->comment(
                'Rules: people of a role who see a group may read from, write to or tend a target. A target belongs to the groups it has '.
                    'rules for; type is the sort of target (host, store, and what kinds bring).',
            );
            $table->id();
            $table->string('type', 40);
            $table->unsignedBigInteger('target_id');
            $table->string('group', 60);
            $table->string('role', 20);
            $table->boolean('may_read')->default(false);
            $table->boolean('may_write')->default(false);
            $table->boolean('may_tend')->default(false);
            $table->timestamps();
            $table->unique(['type', 'target_id', 'group', 'role']);
        });
        // Until now whoever was limited to groups reached what belonged to a workload they saw, and everybody else everything.
        $rights = "'operator', TRUE, TRUE, TRUE, NOW(), NOW()";
        $into = 'INSERT IGNORE INTO target_rights (type, target_id, `group`, role, may_read, may_write, may_tend, created_at, updated_at)';
        DB::statement(
            "$into SELECT DISTINCT 'store', c.store_id, w.group, $rights FROM copies c JOIN workloads w ON w.id = c.workload_id",
        );
        DB::statement(
            "$into SELECT DISTINCT 'host', h.id, w.group, $rights FROM hosts h JOIN workloads w ON w.name = h.name OR (h.kind = 'folder' ".
                "AND (w.source = h.folder OR LEFT(w.source, CHAR_LENGTH(h.folder) + 1) = CONCAT(h.folder, '/')))",
        );
        foreach (['store' => 'stores', 'host' => 'hosts'] as $type => $name) {
            DB::statement(
                "$into SELECT '$type', t.id, 'general', $rights FROM $name t WHERE t.id NOT IN (SELECT target_id FROM target_rights ".
                    "WHERE type = '$type')",
            );
        }
    }
};
