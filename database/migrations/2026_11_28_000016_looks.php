<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('looks', function (Blueprint $table): void {
            $table->comment('What was found by looks that take too long for a page; each goes a day after it was asked for.');
            $table->id();
            $table->foreignId('request_id')->constrained('requests')->cascadeOnDelete();
            $table->char('fingerprint', 64)->charset('ascii')->comment('of what was looked at, and how that was settled then');
            $table->string('type', 100)->charset('ascii')->comment('a class: see App\Kinds\Look');
            $table->json('asked');
            $table->string('state', 10)->charset('ascii')->comment('waiting, running, done, failed');
            $table->string('told', 200)->nullable()->comment('how far it has come');
            $table->json('found')->nullable();
            $table->string('failure', 500)->nullable();
            $table->string('worker', 100)->nullable();
            $table->dateTime('asked_at', 3);
            $table->dateTime('began_at', 3)->nullable()->comment('what was found is as it was from then on');
            $table->dateTime('ended_at', 3)->nullable();
            $table->unique(['request_id', 'fingerprint']);
            $table->index('asked_at');
        });
    }
};
