<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('metal_enrolments', function (Blueprint $table): void {
            $table->comment('Machines that a recovery medium was started on, and codes by which one may come.');
            $table->id();
            $table->foreignId('workload_id')->constrained()->cascadeOnDelete();
            $table->foreignId('request_id')->nullable()->constrained('requests')->nullOnDelete();
            $table->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $table->char('code', 64)->comment('SHA-256 of its number and words');
            $table->unsignedTinyInteger('tries')->default(0)->comment('with other words');
            $table->dateTime('expires_at');
            $table->char('token', 64)->nullable()->unique()->comment('SHA-256 of what the medium was given');
            $table->string('phrase', 60)->nullable()->comment('what both screens show');
            $table->string('address', 45)->nullable();
            $table->json('machine')->nullable()->comment('what it says that it is');
            $table->json('wish')->nullable()->comment('what was said of how its disks are laid out');
            $table->dateTime('enrolled_at')->nullable();
            $table->dateTime('seen_at')->nullable();
            $table->dateTime('ended_at')->nullable();
            $table->string('ended_because', 300)->nullable();
            $table->foreignId('run_id')->nullable()->constrained()->nullOnDelete();
            $table->timestamps();
        });
    }
};
