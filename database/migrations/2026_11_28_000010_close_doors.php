<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::table('users', function (Blueprint $table): void {
            $table->dateTime('locked_at')->nullable()->comment('cannot sign in since');
        });
        Schema::table('workloads', function (Blueprint $table): void {
            $table
                ->unsignedSmallInteger('override_wait_min')
                ->default(10)
                ->comment('minutes for which a run that was begun without the second person waits, so that it can be stopped');
        });
        Schema::create('consents', function (Blueprint $table): void {
            $table->comment(
                'Deeds on a workload, no runs, that wait for a second person. detail: what the deed is told, with the fingerprint shown.',
            );
            $table->id();
            $table->foreignId('workload_id')->constrained()->cascadeOnDelete();
            $table->string('deed', 40);
            $table->json('detail');
            $table->string('words', 1000)->comment('what would be done, as a sentence');
            $table->string('state', 20)->default('asked')->comment('asked, approved, refused, withdrawn or failed');
            $table->foreignId('asked_by')->constrained('users');
            $table->dateTime('asked_at');
            $table->foreignId('decided_by')->nullable()->constrained('users');
            $table->dateTime('decided_at')->nullable();
            $table->string('decision_words', 1000)->nullable();
            $table->index(['state', 'workload_id']);
        });
        // A request may be settled to another workload later: what was asked and done before stays with the one it was about.
        foreach (['approvals', 'trail'] as $name) {
            Schema::table($name, function (Blueprint $table): void {
                $table->foreignId('workload_id')->nullable()->constrained()->nullOnDelete();
            });
            DB::statement("UPDATE $name t JOIN runs r ON r.id = t.run_id SET t.workload_id = r.workload_id");
            DB::statement(
                "UPDATE $name t JOIN requests q ON q.id = t.request_id SET t.workload_id = q.workload_id WHERE t.workload_id IS NULL",
            );
        }
        Schema::table('database_servers', function (Blueprint $table): void {
            $table
                ->string('asking_user', 128)
                ->nullable()
                ->comment('an account that can only read, by which questions are asked; null: one is made for each');
            $table->text('asking_password')->nullable()->comment('encrypted with the application key');
        });
    }
};
