<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('machine_standings', function (Blueprint $table): void {
            $table->comment('Machines that stand on a point: their disks are read from its sets until they are settled, or dropped.');
            $table->id();
            $table->foreignId('run_id')->comment('that stood it up')->unique()->constrained()->cascadeOnDelete();
            $table->foreignId('hypervisor_id')->constrained()->cascadeOnDelete();
            $table->string('machine', 100)->comment('what it is called there while it stands');
            $table->dateTime('until')->nullable()->comment('by when somebody wants to have decided');
            $table->foreignId('hold_id')->nullable()->constrained()->nullOnDelete();
            $table->foreignId('settled_by')->nullable()->comment('the run that settles it, or did')->constrained('runs')->nullOnDelete();
            $table->dateTime('settle_at')->nullable()->comment('when that is to begin');
            $table->unsignedInteger('limit')->nullable()->comment('megabytes a second at most, of settling');
            $table->string('ended', 10)->nullable()->comment('settled, dropped');
            $table->dateTime('ended_at')->nullable();
            $table->timestamps();
        });
    }
};
