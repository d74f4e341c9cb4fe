<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('name_servers', function (Blueprint $table): void {
            $table->comment('Name servers that take changes from here, each for one zone.');
            $table->id();
            $table->string('name', 100)->unique();
            $table->string('address', 45);
            $table->unsignedSmallInteger('port');
            $table->string('zone', 253)->unique();
            $table->string('key_name', 253);
            $table->string('algorithm', 20);
            $table->text('secret')->comment('encrypted');
            $table->timestamps();
        });
        Schema::create('machine_names', function (Blueprint $table): void {
            $table->comment('Names by which others reach a machine.');
            $table->id();
            $table->foreignId('workload_id')->constrained()->cascadeOnDelete();
            $table->foreignId('name_server_id')->constrained()->cascadeOnDelete();
            $table->string('name', 253)->unique();
            $table->json('leads_to')->comment('addresses, and for how many seconds others may keep them, as seen last');
            $table->dateTime('seen_at');
            $table->timestamps();
        });
        Schema::table('machine_substitutes', function (Blueprint $table): void {
            $table->json('names')->nullable()->after('home_machine')->comment('names that lead to it, and what they led to before');
        });
    }
};
