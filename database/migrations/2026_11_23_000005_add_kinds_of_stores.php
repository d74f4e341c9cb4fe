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
        Schema::table('stores', function (Blueprint $table): void {
            $table->string('kind', 12)->default('folder')->after('name')->comment('folder, object or tape');
            $table
                ->json('options')
                ->nullable()
                ->comment('of an object store: bucket, endpoint, region, prefix; its keys are in the home, not here');
        });
        Schema::table('copies', function (Blueprint $table): void {
            $table->json('segments')->nullable()->comment('on tape: label, position and bytes of each part');
            $table
                ->unsignedBigInteger('workload_id')
                ->default(0)
                ->after('set_id')
                ->index()
                ->comment('that of the set: all copies of a workload are read at once');
            $table->boolean('gzipped')->nullable()->comment('known when it was made; null: look at its first bytes');
        });
        Schema::create('cartridge_calls', function (Blueprint $table): void {
            $table->comment('A cartridge that stands on the shelf was asked for; arrived_at once a person put it into the library.');
            $table->id();
            $table->foreignId('store_id')->constrained();
            $table->string('label', 16);
            $table->foreignId('run_id')->nullable()->constrained('runs')->nullOnDelete();
            $table->dateTime('asked_at', 3);
            $table->foreignId('asked_by')->nullable()->constrained('users');
            $table->dateTime('arrived_at', 3)->nullable();
            $table->foreignId('arrived_by')->nullable()->constrained('users');
            $table->index(['store_id', 'label', 'arrived_at']);
        });
        Schema::create('rate_measurements', function (Blueprint $table): void {
            $table->comment(
                'What runs found: of a store how fast it is read, of a lane how fast it moves, of a target how fast it is written and '.
                    'what each file costs. The newest count most.',
            );
            $table->id();
            $table->string('what', 12)->comment('store, lane, write, file or fetch');
            $table->string('subject', 210)->comment('store name; FROM>TO; site of the target; store of the shelf');
            $table->double('rate')->comment('10^6 bytes a second; of file and fetch: seconds each');
            $table->double('weight')->comment('bytes, or how many');
            $table->foreignId('run_id')->nullable()->constrained('runs')->nullOnDelete();
            $table->dateTime('at', 3);
            $table->index(['what', 'subject', 'id']);
        });
        Schema::table('sets', function (Blueprint $table): void {
            $table
                ->unsignedBigInteger('tried_base_id')
                ->nullable()
                ->after('base_id')
                ->comment('what it was resolved against, also where that was found not to be its base');
            $table->index(['workload_id', 'instant']);
        });
        DB::statement('UPDATE sets SET tried_base_id = base_id');
        DB::statement('UPDATE copies c JOIN sets s ON s.id = c.set_id SET c.workload_id = s.workload_id');
        Schema::table('requests', function (Blueprint $table): void {
            $table->json('use_copies')->nullable()->comment('stores, or STORE/LABEL, to read from where they hold a copy');
            $table->json('avoid_copies')->nullable();
            $table->string('wanted_words', 200)->nullable()->comment('as the requester said it, if the moment was read from that');
            $table->string('wanted_zone', 64)->nullable()->comment('of whoever said so');
            $table->dateTime('wanted_said_at')->nullable()->comment('when: "Thursday" is another day a week later');
        });
        Schema::table('runs', function (Blueprint $table): void {
            $table
                ->json('waits_for')
                ->nullable()
                ->comment('what must come first: a store that does not answer, or a cartridge on the shelf as STORE/LABEL');
            $table->json('estimate')->nullable()->comment('seconds as they were told before: likely, least, most, and the lanes it uses');
        });
    }
};
