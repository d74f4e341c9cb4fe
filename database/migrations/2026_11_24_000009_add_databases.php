<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('database_servers', function (Blueprint $table): void {
            $table->comment(
                'Servers that databases are backed up from and restored to. The password is encrypted with the application key.',
            );
            $table->id();
            $table->string('name', 100)->unique();
            $table->string('host', 255);
            $table->unsignedInteger('port')->default(3306);
            $table->string('user', 128);
            $table->text('password');
            $table->string('site')->default('boathouse');
            $table->json('facts')->nullable()->comment('what it said of itself when it was last asked');
            $table->dateTime('asked_at')->nullable();
            $table->timestamps();
        });
        Schema::table('workloads', function (Blueprint $table): void {
            $table->foreignId('server_id')->nullable()->constrained('database_servers')->comment('where a database lives');
        });
        Schema::table('sets', function (Blueprint $table): void {
            $table->longText('database')->nullable()->comment('JSON: what a dump or a binary log says of itself');
        });
        Schema::table('requests', function (Blueprint $table): void {
            $table->json('database')->nullable()->comment('what was decided for a database: see App\Databases\DatabaseChoice');
        });
        Schema::create('log_transactions', function (Blueprint $table): void {
            $table->comment(
                'The transactions of binary logs, in the order of log and position. tables: JSON list of schema, table, inserted, '.
                    'updated, deleted.',
            );
            $table->unsignedBigInteger('set_id');
            $table->unsignedBigInteger('position');
            $table->unsignedBigInteger('end');
            $table->unsignedBigInteger('at')->comment('seconds since 1970');
            $table->string('gtid', 45)->charset('ascii')->collation('ascii_bin');
            $table->string('schema', 64);
            $table->unsignedBigInteger('inserted');
            $table->unsignedBigInteger('updated');
            $table->unsignedBigInteger('deleted');
            $table->boolean('definition');
            $table->boolean('text');
            $table->boolean('undone');
            $table->mediumText('tables');
            $table->text('statement');
            $table->primary(['set_id', 'position']);
            $table->index(['set_id', 'at']);
            $table->index('gtid');
        });
    }
};
