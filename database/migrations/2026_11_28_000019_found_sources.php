<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('found_sources', function (Blueprint $table): void {
            $table->comment('Originals that nothing protects, as they were found when the clock looked last.');
            $table->string('kind', 20)->charset('ascii');
            $table->string('name', 200);
            $table->string('group', 60);
            $table->string('source', 1000)->comment('where it is');
            $table->json('workload')->comment('columns of the workload that it would become');
            $table->primary(['kind', 'name']);
        });
    }
};
