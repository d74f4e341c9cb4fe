<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::table('hypervisors', function (Blueprint $table): void {
            $table->string('line_network', 100)->nullable()->comment('a network there, from which machines reach the line of this desk');
            $table->string('line', 210)->nullable()->comment('where they reach it from there: HOST:PORT');
        });
    }
};
