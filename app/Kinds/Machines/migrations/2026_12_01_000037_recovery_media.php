<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('recovery_media', function (Blueprint $table): void {
            $table->comment('Recovery media that can be had here, the newest of each format.');
            $table->id();
            $table->string('format', 10)->unique();
            $table->string('state', 10)->comment('making, made, failed');
            $table->string('desk', 210)->comment('where it looks for this desk: HOST:PORT');
            $table->json('files')->nullable()->comment('name, bytes and SHA-256 of each, as they were made');
            $table->json('made_from')->nullable()->comment('packages, with their versions');
            $table->unsignedInteger('version')->nullable();
            $table->string('failure', 500)->nullable();
            $table->dateTime('made_at')->nullable();
            $table->timestamps();
        });
    }
};
