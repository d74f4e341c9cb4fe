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
        Schema::create('machine_looks', function (Blueprint $table): void {
            $table->comment('What was on the screen and the serial line of a machine when somebody looked.');
            $table->id();
            $table->foreignId('hypervisor_id')->constrained()->cascadeOnDelete();
            $table->string('machine', 100);
            $table->string('state', 10)->comment('waiting, done, failed');
            $table->string('failure', 500)->nullable();
            $table->binary('screen')->nullable();
            $table->mediumText('serial')->nullable()->comment('the end of it');
            $table->json('agent')->nullable()->comment('what its agent tells of itself; null if none answers');
            $table->timestamp('looked_at')->nullable();
            $table->unique(['hypervisor_id', 'machine']);
        });
        DB::statement("ALTER TABLE machine_looks MODIFY screen MEDIUMBLOB NULL COMMENT 'PNG, drawn anew here'");
    }
};
