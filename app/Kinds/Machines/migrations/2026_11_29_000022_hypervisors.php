<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('hypervisors', function (Blueprint $table): void {
            $table->id();
            $table->string('name', 100)->unique();
            $table->string('site', 100);
            $table->string('folder', 200)->comment('of this machine: where it answers, and opens disks');
            $table->longText('seen')->nullable()->comment('what it has, and its machines, as it was when it was looked at last');
            $table->timestamp('seen_at')->nullable();
            $table->string('silent', 500)->nullable()->comment('why it did not answer then; null if it did');
            $table->timestamps();
        });
        Schema::create('machine_originals', function (Blueprint $table): void {
            $table->comment('Which machine of which hypervisor a workload is.');
            $table->foreignId('workload_id')->primary()->constrained()->cascadeOnDelete();
            $table->foreignId('hypervisor_id')->constrained()->cascadeOnDelete();
            $table->string('machine', 100);
            $table->string('asked', 200)->nullable()->comment('what is asked of it once it was started: a path');
            $table->json('excluded')->nullable()->comment('disks that no set is made of');
            $table->json('answers')->nullable()->comment('files of its own, as browse lists them, whose content the answer holds');
        });
    }
};
