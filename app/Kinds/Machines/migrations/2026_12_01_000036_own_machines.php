<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('own_machines', function (Blueprint $table): void {
            $table->comment('Machines that people may bring onto other disks themselves.');
            $table->id();
            $table->foreignId('workload_id')->constrained()->cascadeOnDelete();
            $table->foreignId('user_id')->nullable()->comment('who may; else the group says it')->constrained()->cascadeOnDelete();
            $table->string('group', 100)->nullable()->comment('all who see this group may');
            $table->boolean('once')->default(false);
            $table->foreignId('run_id')->nullable()->comment('by which one that is good once was used')->constrained()->nullOnDelete();
            $table->dateTime('used_at')->nullable();
            $table->timestamps();
        });
    }
};
