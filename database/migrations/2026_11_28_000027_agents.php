<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('agents', function (Blueprint $table): void {
            $table->comment('Machines that send their sets themselves, and codes by which one may begin to.');
            $table->id();
            $table->foreignId('workload_id')->constrained()->cascadeOnDelete();
            $table->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $table->char('code', 64)->comment('SHA-256 of its number and words');
            $table->unsignedTinyInteger('tries')->default(0)->comment('with other words');
            $table->dateTime('expires_at');
            $table->char('token', 64)->nullable()->unique()->comment('SHA-256 of what the agent was given');
            $table->string('phrase', 60)->nullable()->comment('what both screens show');
            $table->string('address', 45)->nullable();
            $table->string('host', 100)->nullable()->comment('as the machine calls itself');
            $table->string('system', 100)->nullable();
            $table->string('version', 20)->nullable();
            $table->unsignedBigInteger('sequence')->default(0)->comment('of its newest order');
            $table->dateTime('enrolled_at')->nullable();
            $table->dateTime('seen_at')->nullable();
            $table->dateTime('ended_at')->nullable();
            $table->string('ended_because', 300)->nullable();
            $table->timestamps();
        });
    }
};
