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
        Schema::table('hypervisors', function (Blueprint $table): void {
            $table->timestamp('silent_since')->nullable()->comment('when it first did not answer, since it last did');
        });
        DB::table('hypervisors')->whereNotNull('silent')->update(['silent_since' => now()]);
    }
};
