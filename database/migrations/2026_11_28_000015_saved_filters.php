<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('saved_filters', function (Blueprint $table): void {
            $table->comment('What somebody often wants to see of the requests, under a name of their own.');
            $table->id();
            $table->foreignId('user_id')->constrained('users')->cascadeOnDelete();
            $table->string('name', 60);
            $table->string('query', 500);
            $table->timestamps();
            $table->unique(['user_id', 'name']);
        });
        Schema::table('requests', function (Blueprint $table): void {
            $table->index(['state', 'due_at']);
            $table->index(['state', 'closed_at']);
        });
    }
};
