<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('exclusions', function (Blueprint $table): void {
            $table->comment('What sets of a workload leave out on purpose from now on; what one did leave out stands in its facts.');
            $table->id();
            $table->foreignId('workload_id')->constrained()->cascadeOnDelete();
            $table->string('pattern', 500)->collation('utf8mb4_bin');
            $table->string('because', 200);
            $table->timestamps();
            $table->unique(['workload_id', 'pattern']);
        });
    }
};
