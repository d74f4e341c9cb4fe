<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('machine_snapshot_rules', function (Blueprint $table): void {
            $table->comment('How often machines are kept as they are at their own storage, and how many of those stay.');
            $table->id();
            $table->foreignId('workload_id')->unique()->constrained()->cascadeOnDelete();
            $table->unsignedSmallInteger('minutes')->comment('between two');
            $table->unsignedSmallInteger('keep');
            $table->json('command')->nullable()->comment('run once one is ready: arguments');
            $table->string('failure', 500)->nullable()->comment('why the last could not be taken');
            $table->timestamps();
        });
    }
};
