<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('standings', function (Blueprint $table): void {
            $table->comment('How each workload stood when it was looked at last: reckoned by jobs, so that no page looks at every copy.');
            $table->foreignId('workload_id')->primary()->constrained('workloads')->cascadeOnDelete();
            $table->json('said')->nullable()->comment('see App\Care\KeptStanding');
            $table->json('expiry')->nullable()->comment('what the rules no longer keep: see App\Care\KeptExpiry');
            $table->json('held')->nullable()->comment('store => copies, bytes, copies found right when read back');
            $table->json('trouble')->nullable()->comment('copies that cannot be relied on, the newest first');
            $table->string('failure', 500)->nullable()->comment('why it could not be told');
            $table->dateTime('wanted_at', 6)->nullable()->comment('when something changed, or somebody asked');
            $table->dateTime('reckoned_at', 6)->nullable()->comment('when the looking began');
            $table->unsignedInteger('took_ms')->nullable();
        });
        Schema::table('stores', function (Blueprint $table): void {
            $table->string('silence', 500)->nullable()->comment('why it did not answer when it was looked at last');
            $table->dateTime('looked_at')->nullable();
        });
    }
};
