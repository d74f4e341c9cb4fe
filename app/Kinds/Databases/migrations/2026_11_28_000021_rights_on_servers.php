<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /** Servers belong to the groups of the databases that live on them, as they did before rights were written down. */
    public function up(): void
    {
        $rights = "'operator', TRUE, TRUE, TRUE, NOW(), NOW()";
        $into = 'INSERT IGNORE INTO target_rights (type, target_id, `group`, role, may_read, may_write, may_tend, created_at, updated_at)';
        DB::statement(
            "$into SELECT DISTINCT 'server', o.server_id, w.group, $rights FROM database_originals o JOIN workloads w ON w.id = ".
                'o.workload_id',
        );
        DB::statement(
            "$into SELECT 'server', s.id, 'general', $rights FROM database_servers s WHERE s.id NOT IN (SELECT target_id FROM ".
                "target_rights WHERE type = 'server')",
        );
    }
};
