<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('hosts', function (Blueprint $table): void {
            $table->comment('Machines that things can be brought back to. What signs in to one is kept in the home, not here.');
            $table->id();
            $table->string('name')->unique();
            $table->string('kind', 10)->comment('folder: a folder of this machine, which stands in for a host; sftp');
            $table->string('site')->default('boathouse');
            $table->string('folder', 1024)->comment('nothing outside it is touched; absolute, on that host');
            $table->string('address')->nullable();
            $table->unsignedSmallInteger('port')->nullable();
            $table->string('user')->nullable();
            $table->string('fingerprint', 200)->nullable()->comment('of the host key, as ssh-keygen -l prints it: SHA256:...');
            $table->dateTime('tested_at')->nullable()->comment('when what signs in was last found to work');
            $table->timestamps();
        });
        Schema::table('workloads', function (Blueprint $table): void {
            $table->boolean('needs_approval')->default(false)->comment('replacing anything in place waits for a second person');
        });
        Schema::table('requests', function (Blueprint $table): void {
            $table
                ->foreignId('destination_host_id')
                ->nullable()
                ->after('destination_folder')
                ->constrained('hosts')
                ->comment('where destination is host');
            $table
                ->string('rename_to', 255)
                ->nullable()
                ->after('flat')
                ->comment('another name for the one thing that is selected; percent-encoded');
            $table->json('conflict_in')->nullable()->after('conflict')->comment('folder, percent-encoded => rule that holds in it instead');
            $table->dateTime('starts_at')->nullable()->comment('when a run that is ordered begins; null: at once');
        });
        Schema::table('runs', function (Blueprint $table): void {
            $table->dateTime('starts_at')->nullable()->after('state')->comment('not begun before');
            $table->dateTime('put_back_at')->nullable();
            $table->dateTime('set_aside_until')->nullable()->index()->comment('until when what it replaced is kept; null: nothing is');
        });
        Schema::create('approvals', function (Blueprint $table): void {
            $table->comment('A run that replaces something, asked of a second person; or begun without one, to be reviewed.');
            $table->id();
            $table->foreignId('request_id')->constrained('requests');
            $table->foreignId('run_id')->nullable()->constrained('runs')->nullOnDelete();
            $table->string('state', 12)->default('asked')->index()->comment('asked, approved, refused, withdrawn, overridden');
            $table->string('order', 64)->comment('fingerprint of the order that was shown: another one is not approved by this');
            $table->text('sentence');
            $table->boolean('set_first')->default(false);
            $table->json('preview')->comment('deed => entries, files, bytes, as it was shown');
            $table->foreignId('asked_by')->constrained('users');
            $table->dateTime('asked_at');
            $table->foreignId('decided_by')->nullable()->constrained('users');
            $table->dateTime('decided_at')->nullable();
            $table->string('words', 1000)->nullable()->comment('of the decision; of an override the reason');
            $table->foreignId('reviewed_by')->nullable()->constrained('users');
            $table->dateTime('reviewed_at')->nullable();
            $table->string('review_words', 1000)->nullable();
        });
    }
};
