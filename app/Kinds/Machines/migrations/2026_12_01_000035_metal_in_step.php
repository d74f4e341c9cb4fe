<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::table('metal_enrolments', function (Blueprint $table): void {
            $table->unsignedInteger('orders')->default(0)->comment('the number of those that it was given last');
            $table->unsignedInteger('follow_minutes')->nullable()->comment('between two looks for a newer point, if it is kept in step');
            $table->foreignId('maker_id')->nullable()->comment('the run that made the machine, where it was made for this')
                ->constrained('runs')->nullOnDelete();
            $table->foreignId('at_set_id')->nullable()->comment('that lies on its disks then')->constrained('sets')->nullOnDelete();
            $table->dateTime('stepped_at')->nullable()->comment('when it was looked for a newer one last');
            $table->string('because', 1000)->nullable()->comment('why it cannot follow now');
        });
    }
};
