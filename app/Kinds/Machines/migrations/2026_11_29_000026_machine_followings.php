<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('machine_followings', function (Blueprint $table): void {
            $table->comment('Machines that were brought back, are off, and follow the newest point of their workload.');
            $table->id();
            $table->foreignId('run_id')->comment('that brought it back')->unique()->constrained()->cascadeOnDelete();
            $table->foreignId('hypervisor_id')->constrained()->cascadeOnDelete();
            $table->string('machine', 100);
            $table->unsignedInteger('minutes')->comment('between two steps');
            $table->foreignId('set_id')->nullable()->comment('that it is at')->constrained()->nullOnDelete();
            $table->foreignId('step_id')->nullable()->comment('the run of its last step')->constrained('runs')->nullOnDelete();
            $table->dateTime('stepped_at')->nullable()->comment('when it was looked for a newer point last');
            $table->string('because', 1000)->nullable()->comment('why it cannot follow now');
            $table->string('ended', 10)->nullable()->comment('started, gone, dropped');
            $table->dateTime('ended_at')->nullable();
            $table->timestamps();
        });
    }
};
