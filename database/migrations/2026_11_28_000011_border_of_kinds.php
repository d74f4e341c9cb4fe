<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

// What was one kind's column in a table of all becomes the kind's own document there, or a table of its own.
return new class extends Migration
{
    public function up(): void
    {
        Schema::table('runs', function (Blueprint $table): void {
            $table->boolean('is_whole')->default(false)->comment('all of the workload was ordered, so that its time tells what that takes');
            $table
                ->string('taken_as', 10)
                ->nullable()
                ->comment('zip or tar.gz: what a browser takes; null for what is brought to a target');
        });
        DB::statement("UPDATE runs SET is_whole = JSON_CONTAINS(plan, '\"\"', '$.paths') WHERE JSON_EXISTS(plan, '$.paths')");
        DB::statement(
            "UPDATE runs SET is_whole = 1 WHERE JSON_VALUE(plan, '$.way') IN ('beside', 'in-place') AND JSON_VALUE(plan, '$.tables') IS ".
                'NULL',
        );
        DB::statement(
            "UPDATE runs SET taken_as = IF(JSON_VALUE(plan, '$.download') = 'zip', 'zip', 'tar.gz') WHERE COALESCE(JSON_VALUE(plan, ".
                "'$.download'), '') <> ''",
        );
        Schema::table('requests', function (Blueprint $table): void {
            $table->longText('said')->nullable()->comment('JSON: what was decided, as its kind keeps it: kind, version, said');
        });
        Schema::table('sets', function (Blueprint $table): void {
            $table->renameColumn('database', 'facts');
        });
        DB::statement("ALTER TABLE sets MODIFY facts LONGTEXT NULL COMMENT 'JSON: what the set says of itself, as its kind keeps it'");
    }
};
