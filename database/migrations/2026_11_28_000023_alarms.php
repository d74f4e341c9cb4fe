<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('alarms', function (Blueprint $table): void {
            $table->comment('What somebody must hear of now. One of a cause at a time: open names the cause until it is gone.');
            $table->id();
            $table->string('sort', 20);
            $table->string('open', 200)->nullable()->unique()->comment('the cause, such as "run-ended 12"; null when it is over');
            $table->string('words', 1000);
            $table->string('page', 200)->comment('where it is seen to');
            $table->foreignId('workload_id')->nullable()->constrained()->cascadeOnDelete();
            $table->dateTime('raised_at');
            $table->foreignId('taken_by')->nullable()->constrained('users');
            $table->dateTime('taken_at')->nullable();
            $table->dateTime('over_at')->nullable();
            $table->index('raised_at');
        });
        Schema::create('alarm_receivers', function (Blueprint $table): void {
            $table->comment('To whom alarms are sent. sorts, groups: null for all of them.');
            $table->id();
            $table->string('name', 60)->unique();
            $table->string('kind', 10)->comment('mail or webhook');
            $table->string('address', 500);
            $table->text('secret')->nullable()->comment('of a webhook; encrypted with the application key');
            $table->json('sorts')->nullable();
            $table->json('groups')->nullable();
            $table->unsignedSmallInteger('repeat_min')->default(60)->comment('minutes after which it is sent again until it is taken');
            $table->timestamps();
        });
        Schema::create('alarm_sendings', function (Blueprint $table): void {
            $table->comment('How far an alarm has come to a receiver.');
            $table->id();
            $table->foreignId('alarm_id')->constrained()->cascadeOnDelete();
            $table->foreignId('receiver_id')->constrained('alarm_receivers')->cascadeOnDelete();
            $table->unsignedInteger('sent')->default(0)->comment('times that it was taken by the other side');
            $table->unsignedInteger('failed')->default(0)->comment('times in a row that it was not');
            $table->string('failure', 500)->nullable();
            $table->dateTime('sent_at')->nullable();
            $table->dateTime('next_at');
            $table->unique(['alarm_id', 'receiver_id']);
        });
    }
};
