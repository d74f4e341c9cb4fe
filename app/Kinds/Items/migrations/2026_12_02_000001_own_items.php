<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('own_item_rules', function (Blueprint $table): void {
            $table->comment('Workloads of which people look for and bring back what is their own, without an operator.');
            $table->foreignId('workload_id')->primary()->constrained()->cascadeOnDelete();
            $table->unsignedInteger('most_items')->comment('in one order');
            $table->unsignedInteger('most_mb')->comment('in one order');
            $table->timestamps();
        });
        Schema::create('own_mailboxes', function (Blueprint $table): void {
            $table->comment('Mailboxes that are a person’s beside the one that bears their address.');
            $table->id();
            $table->foreignId('workload_id')->constrained()->cascadeOnDelete();
            $table->foreignId('user_id')->constrained()->cascadeOnDelete();
            $table->string('mailbox', 300)->collation('utf8mb4_bin');
            $table->timestamps();
            $table->unique(['user_id', 'workload_id', 'mailbox']);
        });
    }
};
