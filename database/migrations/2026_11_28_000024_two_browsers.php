<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        foreach (['approvals', 'consents'] as $name) {
            Schema::table($name, function (Blueprint $table): void {
                $table
                    ->char('asked_from', 64)
                    ->nullable()
                    ->comment('SHA-256 of the mark of the browser: another person decides in another one');
            });
        }
    }
};
