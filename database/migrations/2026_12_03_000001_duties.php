<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::table('users', function (Blueprint $table): void {
            $table->json('duties')->nullable()->after('workload_groups')->comment('what they may do beside what their role lets them');
        });
        Schema::table('approvals', function (Blueprint $table): void {
            $table->string('duty', 20)->nullable()->after('order')->comment('that whoever says yes must have');
        });
    }
};
