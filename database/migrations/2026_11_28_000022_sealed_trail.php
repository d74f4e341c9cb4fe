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
        // What an entry tells stays as it was told, whatever becomes of the rows it is about: no key reaches into it.
        Schema::table('trail', function (Blueprint $table): void {
            foreach (['request_id', 'run_id', 'user_id', 'workload_id'] as $column) {
                $table->dropForeign([$column]);
            }
            $table->string('sort', 20)->default('work')->comment('App\\Models\\TrailSort');
            $table->string('actor', 200)->nullable()->comment('who, as they were called then; null in entries from before');
            $table->string('way', 10)->nullable()->comment('page, terminal or job');
            $table->string('address', 45)->nullable()->comment('from which a page was asked');
            $table->string('result', 10)->default('done')->comment('done, refused or failed');
            $table->index(['sort', 'id']);
            $table->index('at');
        });
        DB::statement('UPDATE trail t JOIN users u ON u.id = t.user_id SET t.actor = u.email'); // before anything is sealed
        Schema::create('trail_seals', function (Blueprint $table): void {
            $table->comment(
                'The chain over the trail: seal = SHA-256 of the seal before and the entry (Kaiseki\Core\Trail\Seal). One process writes '.
                    'it, so that number has no gaps.',
            );
            $table->unsignedBigInteger('number')->primary();
            $table->unsignedBigInteger('entry_id')->unique();
            $table->char('seal', 64);
            $table->dateTime('sealed_at');
        });
        Schema::create('trail_days', function (Blueprint $table): void {
            $table->comment('The end of each day (UTC) that has entries, signed; a copy of it lies on every store of ours.');
            $table->date('day')->primary();
            $table->unsignedBigInteger('entries');
            $table->text('signed')->comment('Kaiseki\Core\Trail\SealedDay as JSON');
        });
    }
};
