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
        Schema::table('expiries', function (Blueprint $table): void {
            $table->dateTime('planned_at', 6)->nullable()->comment('one for all that one plan deletes');
            $table->foreignId('user_id')->nullable()->constrained('users')->comment('null for the clock');
            $table->index(['planned_at', 'workload_id']);
        });
        DB::table('expiries')->update(['planned_at' => DB::raw('created_at')]);
        Schema::table('makings', function (Blueprint $table): void {
            $table->index('created_at');
            $table->index(['workload_id', 'set_name']);
        });
        Schema::table('runs', fn (Blueprint $table) => $table->index('created_at'));
        Schema::table('sets', fn (Blueprint $table) => $table->index('captured_at'));
    }
};
