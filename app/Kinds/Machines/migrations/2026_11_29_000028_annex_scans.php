<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('annex_scans', function (Blueprint $table): void {
            $table->comment('Looks through the files of a machine in an annex, against lists of what is known to be bad.');
            $table->id();
            $table->foreignId('annex_id')->constrained('machine_annexes')->cascadeOnDelete();
            $table->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $table->unsignedInteger('budget')->comment('seconds that it may take');
            $table->string('state', 10)->comment('waiting, running, done, failed');
            $table->unsignedBigInteger('files')->default(0)->comment('that were looked into');
            $table->unsignedBigInteger('bytes')->default(0);
            $table->json('not_looked')->nullable()->comment('path and why, of the first of what was not looked into');
            $table->unsignedBigInteger('not_looked_count')->default(0);
            $table->string('failure', 500)->nullable();
            $table->dateTime('began_at')->nullable();
            $table->dateTime('ended_at')->nullable();
            $table->timestamps();
        });
        Schema::create('annex_findings', function (Blueprint $table): void {
            $table->comment('Files of a machine in an annex that are on a list of what is known to be bad.');
            $table->id();
            $table->foreignId('annex_id')->constrained('machine_annexes')->cascadeOnDelete();
            $table->foreignId('scan_id')->comment('that saw it last')->constrained('annex_scans')->cascadeOnDelete();
            $table->text('path')->comment('percent-encoded; its first part is the volume');
            $table->string('what', 200)->comment('name of what it was found to be');
            $table->char('digest', 64)->comment('SHA-256 of its content, hexadecimal');
            $table->unsignedBigInteger('size');
            $table->string('verdict', 10)->nullable()->comment('harmless, bad');
            $table->boolean('by_rule')->default(false);
            $table->foreignId('user_id')->nullable()->comment('who gave the verdict')->constrained()->nullOnDelete();
            $table->string('why', 300)->nullable();
            $table->dateTime('decided_at')->nullable();
            $table->timestamps();
        });
    }
};
