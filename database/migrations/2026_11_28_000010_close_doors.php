<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::table('database_servers', function (Blueprint $table): void {
            $table->string('asking_user', 128)->nullable()->comment('an account that can only read, by which questions are asked; null: one is made for each');
            $table->text('asking_password')->nullable()->comment('encrypted with the application key');
        });
    }
};
