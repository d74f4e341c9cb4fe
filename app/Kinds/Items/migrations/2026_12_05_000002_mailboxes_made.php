<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

/** What makes a mailbox on a server, and takes it away again, if whoever runs it has put such programs there. */
return new class extends Migration
{
    public function up(): void
    {
        Schema::table('mail_servers', function (Blueprint $table): void {
            $table->text('makes')->nullable()->comment('a JSON list of arguments; it reads the name of the mailbox');
            $table->text('unmakes')->nullable()->comment('likewise');
        });
    }
};
