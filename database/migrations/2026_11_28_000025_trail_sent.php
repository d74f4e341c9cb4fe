<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('trail_sent', function (Blueprint $table): void {
            $table->comment('Up to which seal the trail was sent to the syslog server. Only added to, as all of the trail.');
            $table->unsignedBigInteger('number')->primary();
            $table->dateTime('sent_at');
        });
    }
};
