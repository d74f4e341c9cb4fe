<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('users', function (Blueprint $table): void {
            $table->comment('People who sign in. workload_groups: null for all groups, else the names of those they may see.');
            $table->id();
            $table->string('name');
            $table->string('email')->unique();
            $table->string('password');
            $table->string('role', 20);
            $table->json('workload_groups')->nullable();
            $table->string('zone', 64)->default('UTC');
            $table->rememberToken();
            $table->timestamps();
        });
        Schema::create('stores', function (Blueprint $table): void {
            $table->comment('Something in a place that holds copies. read_mb_s is in 10^6 bytes a second.');
            $table->id();
            $table->string('name')->unique();
            $table->string('site');
            $table->string('root', 1024)->comment('absolute folder of a local store');
            $table->boolean('read_only')->default(false);
            $table->double('read_mb_s')->default(120);
            $table->double('setup_s')->default(0);
            $table->timestamps();
        });
        Schema::create('lanes', function (Blueprint $table): void {
            $table->comment('The path between two sites, with its speed in 10^6 bytes a second.');
            $table->id();
            $table->string('from_site');
            $table->string('to_site');
            $table->double('mb_s');
            $table->unique(['from_site', 'to_site']);
            $table->timestamps();
        });
        Schema::create('workloads', function (Blueprint $table): void {
            $table->comment('One thing that is protected and can be recovered; it stays listed when its original is gone.');
            $table->id();
            $table->string('name')->unique();
            $table->string('kind', 20);
            $table->string('group', 60)->default('general')->index();
            $table->string('site')->default('boathouse');
            $table->string('zone', 64)->default('UTC')->comment('the zone its people live in');
            $table->string('source', 1024)->nullable()->comment('the root folder of the live original, if there is one');
            $table->timestamps();
        });
        Schema::create('histories', function (Blueprint $table): void {
            $table->comment('A source that was rebuilt begins a new history; nothing builds on a set of another one.');
            $table->id();
            $table->foreignId('workload_id')->constrained()->cascadeOnDelete();
            $table->string('name', 60)->default('1');
            $table->unique(['workload_id', 'name']);
        });
        Schema::create('sets', function (Blueprint $table): void {
            $table->comment(
                'What one backup wrote. instant is captured_at in microseconds since 1970, made unique in its history: the key of the '.
                    'catalog.',
            );
            $table->id();
            $table->foreignId('workload_id')->constrained()->cascadeOnDelete();
            $table->foreignId('history_id')->constrained()->cascadeOnDelete();
            $table->string('name', 200);
            $table->string('level', 12)->comment('full, diff, incr, log, or 0 to 9');
            $table->bigInteger('instant');
            $table->dateTime('captured_at', 6);
            $table->dateTime('captured_from', 6)->nullable();
            $table->foreignId('base_id')->nullable()->constrained('sets')->nullOnDelete();
            $table->boolean('base_recorded')->default(false);
            $table->string('base_name', 200)->nullable()->comment('the base as it was recorded, if it is not here');
            $table->string('base_unknown_because', 500)->nullable();
            $table->string('consistency', 20)->default('unknown');
            $table->boolean('in_doubt')->default(false);
            $table->string('cataloged', 10)->default('no')->comment('whole, part or no');
            $table->boolean('checkpoint')->default(false)->comment('folder totals are kept whole at this instant');
            $table->unsignedBigInteger('bytes')->default(0)->comment('of the archive');
            $table->unsignedBigInteger('entries')->default(0)->comment('members in the archive');
            $table->unsignedBigInteger('tree_files')->default(0);
            $table->unsignedBigInteger('tree_bytes')->default(0);
            $table->boolean('seekable')->default(false)->comment('gzip members or plain tar: one file is read alone');
            $table->json('remarks')->nullable()->comment('plain sentences: what differs from what was asked, what was left out');
            $table->timestamps();
            $table->unique(['workload_id', 'name']);
            $table->unique(['history_id', 'instant']);
        });
        Schema::create('copies', function (Blueprint $table): void {
            $table->comment('One set on one store. state: ok, checked, offline, missing or damaged.');
            $table->id();
            $table->foreignId('set_id')->constrained()->cascadeOnDelete();
            $table->foreignId('store_id')->constrained();
            $table->binary('path')->comment('below the root of the store; bytes');
            $table->string('state', 10)->default('ok');
            $table->unsignedBigInteger('bytes')->default(0);
            $table->string('state_because', 500)->nullable();
            $table->dateTime('checked_at')->nullable();
            $table->timestamps();
            $table->unique(['set_id', 'store_id']);
        });
    }
};
