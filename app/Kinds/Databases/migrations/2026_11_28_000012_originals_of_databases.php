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
        Schema::create('database_originals', function (Blueprint $table): void {
            $table->comment('Where a database lives.');
            $table->foreignId('workload_id')->primary()->constrained()->cascadeOnDelete();
            $table->foreignId('server_id')->constrained('database_servers');
        });
        DB::statement(
            'INSERT INTO database_originals (workload_id, server_id) SELECT id, server_id FROM workloads WHERE server_id IS NOT NULL',
        );
        // That a run which failed can be put back was told by words of its failure until now.
        DB::statement(
            <<<'SQL'
            UPDATE runs SET outcome = JSON_SET(COALESCE(outcome, '{}'), '$.can_put_back', TRUE)
            WHERE state IN ('failed', 'stopped') AND failure LIKE '%had changed places%' AND JSON_VALUE(plan, '$.kind') = 'database'
            SQL
            ,
        );
        foreach (
            DB::table('requests')
                ->whereNotNull('database')
                ->get(['id', 'database']) as $row
        ) {
            $said = ['kind' => 'database', 'version' => 1, 'said' => ['choice' => json_decode($row->database, true) ?? []]];
            DB::table('requests')
                ->where('id', $row->id)
                ->update(['said' => json_encode($said, JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE)]);
        }
        Schema::table('requests', function (Blueprint $table): void {
            $table->dropColumn('database');
        });
        Schema::table('workloads', function (Blueprint $table): void {
            $table->dropConstrainedForeignId('server_id');
        });
    }
};
