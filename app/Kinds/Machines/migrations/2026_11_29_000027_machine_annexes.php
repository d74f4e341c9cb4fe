<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('machine_annexes', function (Blueprint $table): void {
            $table->comment('Networks apart in which machines that stand are looked at before they are released.');
            $table->id();
            $table->foreignId('run_id')->comment('that stood the machine up')->unique()->constrained()->cascadeOnDelete();
            $table->foreignId('hypervisor_id')->constrained()->cascadeOnDelete();
            $table->string('name', 100)->comment('of the annex there');
            $table->longText('wanted')->nullable()->comment('what it wanted of others, as read from its record');
            $table->unsignedInteger('beyond')->default(0)->comment('packets for which there was no room in the record');
            $table->string('unread', 500)->nullable()->comment('why the record cannot be read');
            $table->dateTime('looked_at')->nullable();
            $table->string('ended', 10)->nullable()->comment('released, dropped');
            $table->dateTime('ended_at')->nullable();
            $table->timestamps();
        });
        Schema::create('annex_changes', function (Blueprint $table): void {
            $table->comment('What was done in a machine while it was in an annex.');
            $table->id();
            $table->foreignId('annex_id')->constrained('machine_annexes')->cascadeOnDelete();
            $table->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $table->string('sort', 10)->comment('run, type');
            $table->json('what')->comment('a command and its arguments, or a text');
            $table->string('why', 300);
            $table->string('state', 10)->comment('waiting, done, failed');
            $table->text('result')->nullable();
            $table->timestamps();
        });
    }
};
