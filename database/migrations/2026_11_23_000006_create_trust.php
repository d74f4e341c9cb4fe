<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/** What makes a point one that can be relied on: reading back, signs of damage, keeping. */
return new class extends Migration
{
    public function up(): void
    {
        DB::statement('ALTER TABLE paths DROP KEY parent_name'); // children are found by their versions
        DB::statement('DROP TABLE names'); // they are in a file: docs/decisions/0011-names-in-a-file.md
        Schema::table('sets', function (Blueprint $table): void {
            $table
                ->char('digest', 64)
                ->nullable()
                ->comment('BLAKE2b-256 of the archive as it was registered, hex; its pieces are in the home');
            $table->json('beside')->nullable()->comment('ending of a file beside the archive => its digest, hex');
            $table->char('index_digest', 64)->nullable()->comment('of the index of places in the home');
            $table->json('measures')->nullable()->comment('what is counted to tell a usual set from an unusual one');
            $table->double('made_in_s')->nullable()->comment('how long making it took');
            $table->json('commands')->nullable()->comment('what ran before and after, with its output');
            $table
                ->unsignedBigInteger('doubtful')
                ->default(0)
                ->comment('files at this point whose content is in doubt; kept up by DoubtBook');
        });
        Schema::table('copies', function (Blueprint $table): void {
            $table->json('damage')->nullable()->comment('of a damaged one: ranges of bytes, how many contents they touch; null: not known');
            $table->boolean('has_beside')->default(false)->comment('the manifest and the other files lie beside this one');
        });
        Schema::table('stores', function (Blueprint $table): void {
            $table->unsignedBigInteger('check_bytes_a_night')->nullable()->comment('budget for reading back; null: not planned');
            $table->string('check_from', 5)->nullable()->comment('HH:MM in its zone');
            $table->string('check_until', 5)->nullable();
            $table->string('check_zone', 64)->default('UTC');
        });
        DB::statement(
            <<<'SQL'
            CREATE TABLE damaged_contents (
                copy_id BIGINT UNSIGNED NOT NULL,
                digest BINARY(32) NOT NULL,
                PRIMARY KEY (copy_id, digest)
            ) ENGINE=InnoDB COMMENT='contents that a damaged copy no longer gives; the others it does'
            SQL
            ,
        );
        Schema::create('checks', function (Blueprint $table): void {
            $table->comment('A copy was read whole and compared. What it was of is kept in words too, since sets go.');
            $table->id();
            $table->foreignId('copy_id')->nullable()->constrained('copies')->nullOnDelete();
            $table->foreignId('workload_id')->constrained()->cascadeOnDelete();
            $table->string('set_name', 200);
            $table->string('store_name');
            $table->string('result', 12)->comment('right, damaged, missing, mended or silent');
            $table->string('because', 1000)->nullable();
            $table->unsignedBigInteger('bytes')->default(0);
            $table->double('seconds')->default(0);
            $table->foreignId('user_id')->nullable()->constrained('users');
            $table->boolean('planned')->default(false);
            $table->dateTime('at', 3)->index();
            $table->index(['workload_id', 'at']);
        });
        Schema::create('signs', function (Blueprint $table): void {
            $table->comment('What about a set speaks for damage in its source, or is good to know: figures, and a sentence.');
            $table->id();
            $table->foreignId('set_id')->constrained('sets')->cascadeOnDelete();
            $table->string('kind', 24);
            $table->boolean('doubts')->comment('raises doubt; else it is only told');
            $table->json('figures');
            $table->string('words', 1000);
            $table->index('set_id');
        });
        DB::statement(
            <<<'SQL'
            CREATE TABLE doubts (
                workload_id BIGINT UNSIGNED NOT NULL,
                digest BINARY(32) NOT NULL,
                path_id BIGINT NOT NULL COMMENT '0: wherever the content is; of a content too short to be its own proof, the path',
                set_id BIGINT UNSIGNED NOT NULL,
                kind VARCHAR(24) NOT NULL,
                PRIMARY KEY (workload_id, digest, path_id),
                KEY raised_by (set_id)
            ) ENGINE=InnoDB COMMENT='contents in doubt, and the set at which they first were'
            SQL
            ,
        );
        Schema::create('verdicts', function (Blueprint $table): void {
            $table->comment(
                'A person overruled the signs of a set; the newest verdict holds. Good clears the contents that came into doubt at that '.
                    'set too, doubt raises it for all that first showed there.',
            );
            $table->id();
            $table->foreignId('set_id')->constrained('sets')->cascadeOnDelete();
            $table->string('verdict', 10)->comment('good, doubt, or none to take one back');
            $table->string('reason', 1000);
            $table->foreignId('user_id')->nullable()->constrained('users');
            $table->dateTime('at', 3);
        });
        Schema::table('runs', function (Blueprint $table): void {
            $table->unsignedBigInteger('set_id')->nullable()->change();
            $table->string('set_name', 200)->nullable()->comment('of the point, since sets expire');
            $table->dateTime('point_at', 6)->nullable();
        });
        DB::statement('UPDATE runs r JOIN sets s ON s.id = r.set_id SET r.set_name = s.name, r.point_at = s.captured_at');
        Schema::table('requests', function (Blueprint $table): void {
            $table
                ->boolean('across_points')
                ->default(false)
                ->comment('each file from the newest point at which it can be read and meets the demands');
        });
        Schema::create('bad_contents', function (Blueprint $table): void {
            $table->comment('Digests of contents that are known to be harmful.');
            $table->char('digest', 64)->primary()->comment('BLAKE2b-256, hex');
            $table->string('name', 300)->nullable();
        });
        Schema::create('holds', function (Blueprint $table): void {
            $table->comment('Keeps a set, and all it rests on, from expiring.');
            $table->id();
            $table->foreignId('set_id')->constrained('sets')->cascadeOnDelete();
            $table->string('reason', 500);
            $table->dateTime('until')->nullable();
            $table->foreignId('request_id')->nullable()->constrained('requests')->nullOnDelete();
            $table->foreignId('user_id')->nullable()->constrained('users');
            $table->dateTime('lifted_at')->nullable();
            $table->timestamps();
        });
        Schema::create('keep_rules', function (Blueprint $table): void {
            $table->comment(
                'What is kept: of a workload, on one store or (null) on all. The rule for a store goes before the one for all.',
            );
            $table->id();
            $table->foreignId('workload_id')->constrained()->cascadeOnDelete();
            $table->foreignId('store_id')->nullable()->constrained()->cascadeOnDelete();
            $table->string('rule', 200)->comment('such as last=7 daily=14 weekly=8');
            $table
                ->boolean('every_night')
                ->default(false)
                ->comment('what they no longer keep is deleted by itself; else when a person says so');
            $table->timestamps();
            $table->unique(['workload_id', 'store_id']);
        });
        Schema::create('schedules', function (Blueprint $table): void {
            $table->comment('When sets are made: of one workload, or (group) of whatever is new in a group.');
            $table->id();
            $table->foreignId('workload_id')->nullable()->unique()->constrained()->cascadeOnDelete();
            $table->string('group', 60)->nullable()->unique();
            $table->foreignId('store_id')->constrained();
            $table->json('times')->comment('list of cron expression and level');
            $table->string('zone', 64)->default('UTC');
            $table->string('window_from', 5)->nullable()->comment('HH:MM; outside these hours nothing begins');
            $table->string('window_until', 5)->nullable();
            $table->json('copy_to')->nullable()->comment('names of stores');
            $table->string('copy_from', 5)->nullable()->comment('HH:MM from which copies may be made; null: at once');
            $table->json('before')->nullable()->comment('argument list of a command');
            $table->json('after')->nullable();
            $table->unsignedInteger('limit_s')->default(60)->comment('for each of the commands');
            $table->boolean('on')->default(true);
            $table->dateTime('considered_at')->nullable()->comment('what was due until then was begun, or missed');
            $table->timestamps();
        });
        Schema::create('makings', function (Blueprint $table): void {
            $table->comment('A set that was to be made, and what came of it.');
            $table->id();
            $table->foreignId('workload_id')->constrained()->cascadeOnDelete();
            $table->foreignId('store_id')->constrained();
            $table->string('level', 12)->comment('as asked');
            $table->string('why', 200);
            $table->string('state', 10)->default('queued')->index()->comment('queued, running, done, failed or missed');
            $table->string('set_name', 200)->nullable();
            $table->unsignedBigInteger('entries')->default(0);
            $table->text('failure')->nullable();
            $table->string('worker', 100)->nullable();
            $table->foreignId('user_id')->nullable()->constrained('users');
            $table->dateTime('started_at', 3)->nullable();
            $table->dateTime('ended_at', 3)->nullable();
            $table->timestamps();
            $table->index(['workload_id', 'id']);
        });
        Schema::table('workloads', function (Blueprint $table): void {
            $table->unsignedBigInteger('rpo_s')->nullable()->comment('objective: the newest usable point is not older, in seconds');
            $table->unsignedBigInteger('rto_s')->nullable()->comment('objective: a whole restore takes no longer, in seconds');
            $table->boolean('needs_outside_copy')->default(false)->comment('objective: a usable point has a copy at another site');
        });
        Schema::create('objective_days', function (Blueprint $table): void {
            $table->comment('How each workload stood against its objectives, once a day.');
            $table->foreignId('workload_id')->constrained()->cascadeOnDelete();
            $table->date('day');
            $table->unsignedBigInteger('age_s')->nullable()->comment('of the newest usable point');
            $table->unsignedBigInteger('restore_s')->nullable()->comment('a whole restore, as estimated');
            $table->unsignedInteger('unusable')->default(0)->comment('points that exist but cannot be used');
            $table->boolean('met')->default(true);
            $table->primary(['workload_id', 'day']);
        });
        Schema::create('expiries', function (Blueprint $table): void {
            $table->comment('Copies that a plan of expiry is about to delete: written down first, so that it can be gone on with.');
            $table->id();
            $table->foreignId('workload_id')->constrained()->cascadeOnDelete();
            $table->unsignedBigInteger('copy_id');
            $table->string('set_name', 200);
            $table->string('store_name');
            $table->unsignedBigInteger('bytes');
            $table->unsignedInteger('turn')->comment('those that rest on others come before these');
            $table->dateTime('done_at', 3)->nullable()->index();
            $table->string('failure', 500)->nullable();
            $table->timestamps();
        });
    }
};
