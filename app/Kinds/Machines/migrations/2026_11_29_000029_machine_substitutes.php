<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('machine_substitutes', function (Blueprint $table): void {
            $table->comment('Machines that were brought back elsewhere, and are the original for now: sets are made of them.');
            $table->id();
            $table->foreignId('workload_id')->constrained()->cascadeOnDelete();
            $table->foreignId('run_id')->comment('that brought it back')->unique()->constrained()->cascadeOnDelete();
            $table->foreignId('hypervisor_id')->comment('where it is')->constrained()->cascadeOnDelete();
            $table->string('machine', 100);
            $table->foreignId('home_id')->comment('where the original was')->constrained('hypervisors')->cascadeOnDelete();
            $table->string('home_machine', 100);
            $table->dateTime('home_at')->nullable()->comment('when it is to go home');
            $table->json('home_wish')->nullable()->comment('and how');
            $table->foreignId('home_by')->nullable()->comment('who wants that')->constrained('users')->nullOnDelete();
            $table->foreignId('home_run_id')->nullable()->comment('that takes it home')->constrained('runs')->nullOnDelete();
            $table->foreignId('went_to')->nullable()->comment('where it is at home now')->constrained('hypervisors')->nullOnDelete();
            $table->string('ended', 10)->nullable()->comment('home, dropped');
            $table->dateTime('ended_at')->nullable();
            $table->timestamps();
        });
    }
};
