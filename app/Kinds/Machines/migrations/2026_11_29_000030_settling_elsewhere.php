<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::table('machine_standings', function (Blueprint $table): void {
            $table->json('storages')->nullable()->after('limit')->comment('disk => another storage, to which it is settled at that time');
        });
    }
};
