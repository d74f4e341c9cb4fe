<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('set_parts', function (Blueprint $table): void {
            $table->comment(
                'Disks, volumes, collections of one moment: each is a file of its own. A set without rows here is one file, which is its '.
                    'part 0.',
            );
            $table->foreignId('set_id')->constrained('sets')->cascadeOnDelete();
            $table->unsignedSmallInteger('number')->comment('from 0');
            $table->string('name', 200);
            $table->unsignedBigInteger('bytes');
            $table->char('digest', 64)->nullable()->comment('BLAKE2b-256 of its file as it was registered, hex');
            $table->primary(['set_id', 'number']);
        });
        Schema::table('copies', function (Blueprint $table): void {
            $table->unsignedSmallInteger('part')->default(0)->after('store_id')->comment('which part of its set this is a copy of');
            $table->unique(['set_id', 'store_id', 'part']);
            $table->dropUnique(['set_id', 'store_id']);
        });
    }
};
