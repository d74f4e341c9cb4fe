<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('requests', function (Blueprint $table): void {
            $table->comment('Somebody has lost something. What was decided for it (the order) is kept in the columns from point on.');
            $table->id();
            $table->foreignId('workload_id')->nullable()->constrained();
            $table->foreignId('requester_id')->constrained('users');
            $table->foreignId('operator_id')->nullable()->constrained('users');
            $table->string('summary', 300);
            $table->text('reason');
            $table->string('lost', 1000)->nullable()->comment('path or name, in the words of the requester');
            $table->dateTime('wanted_at');
            $table->dateTime('noticed_at')->nullable();
            $table->dateTime('due_at')->index();
            $table->string('state', 20)->default('open')->index()->comment('open, running, answer (waits for the requester), closed');
            $table
                ->foreignId('set_id')
                ->nullable()
                ->constrained('sets')
                ->comment('the point, if the operator chose another than the proposed');
            $table->string('demands', 200)->default('consistent,clear');
            $table->json('selection')->nullable()->comment('paths, percent-encoded');
            $table->string('destination', 20)->default('new-folder')->comment('new-folder, own-place or folder');
            $table->string('destination_folder', 1024)->nullable();
            $table->string('conflict', 20)->default('beside');
            $table->boolean('flat')->default(false);
            $table->string('answer', 10)->nullable()->comment('yes or no');
            $table->text('answer_words')->nullable();
            $table->dateTime('closed_at')->nullable();
            $table->timestamps();
        });
        Schema::create('runs', function (Blueprint $table): void {
            $table->comment('One order carried out. plan is the order as it was confirmed; outcome what came of it.');
            $table->id();
            $table->foreignId('request_id')->nullable()->constrained('requests');
            $table->foreignId('workload_id')->constrained();
            $table->foreignId('set_id')->constrained('sets');
            $table->foreignId('user_id')->nullable()->constrained('users');
            $table->string('state', 12)->default('queued')->index()->comment('queued, running, done, failed, stopped');
            $table->json('plan');
            $table->json('outcome')->nullable();
            $table->text('failure')->nullable();
            $table->string('worker', 100)->nullable()->comment('process that carries it out');
            $table->boolean('stop_asked')->default(false);
            $table->unsignedBigInteger('files_done')->default(0);
            $table->unsignedBigInteger('files_total')->default(0);
            $table->unsignedBigInteger('bytes_done')->default(0);
            $table->unsignedBigInteger('bytes_total')->default(0);
            $table->dateTime('heartbeat_at')->nullable();
            $table->dateTime('started_at', 3)->nullable();
            $table->dateTime('ended_at', 3)->nullable();
            $table->timestamps();
        });
        Schema::create('run_steps', function (Blueprint $table): void {
            $table->comment('The steps of a run, each of which can be repeated safely.');
            $table->id();
            $table->foreignId('run_id')->constrained()->cascadeOnDelete();
            $table->unsignedTinyInteger('position');
            $table->string('name', 40);
            $table->string('state', 12)->default('waiting');
            $table->text('detail')->nullable();
            $table->dateTime('started_at', 3)->nullable();
            $table->dateTime('ended_at', 3)->nullable();
            $table->unique(['run_id', 'position']);
        });
        Schema::create('trail', function (Blueprint $table): void {
            $table->comment('Who did what, in order; rows are only added.');
            $table->id();
            $table->foreignId('request_id')->nullable()->constrained('requests');
            $table->foreignId('run_id')->nullable()->constrained('runs');
            $table->foreignId('user_id')->nullable()->constrained('users');
            $table->string('what', 1000);
            $table->dateTime('at', 3);
        });
    }
};
