<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('held_days', function (Blueprint $table): void {
            $table->comment('How much of each workload lay on each store at the end of each day (UTC), as far as it was looked at.');
            $table->date('day');
            $table->foreignId('store_id')->constrained('stores')->cascadeOnDelete();
            $table->foreignId('workload_id')->constrained('workloads')->cascadeOnDelete();
            $table->unsignedInteger('copies');
            $table->unsignedBigInteger('bytes');
            $table->primary(['day', 'store_id', 'workload_id']);
            $table->index(['workload_id', 'day']);
        });
        Schema::table('stores', function (Blueprint $table): void {
            $table->unsignedBigInteger('free_bytes')->nullable()->comment('at looked_at; null where that cannot be told');
        });
    }
};
