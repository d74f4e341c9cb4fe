<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/** When appointments take place, and where servers keep calendars and contacts. */
return new class extends Migration
{
    public function up(): void
    {
        DB::statement(<<<'SQL'
            CREATE TABLE item_times (
                item_id BIGINT UNSIGNED NOT NULL,
                instance VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
                begins BIGINT NOT NULL,
                ends BIGINT NOT NULL,
                PRIMARY KEY (item_id, instance),
                KEY times (begins, item_id)
            ) ENGINE=InnoDB COMMENT='each time that an appointment takes place, seconds since 1970; see CalendarTime::key()'
            SQL);
        Schema::create('mail_live', function (Blueprint $table): void {
            $table->comment('Which mailboxes of which server a workload is read from, where nobody gets at its files.');
            $table->foreignId('workload_id')->primary()->constrained()->cascadeOnDelete();
            $table->foreignId('server_id')->constrained('mail_servers');
            $table->mediumText('mailboxes')->comment('a JSON list of names');
        });
        Schema::create('erased_things', function (Blueprint $table): void {
            $table->comment('Personal data that had to be erased: no run brings it back out of sets. See ErasedThing.');
            $table->id();
            $table->string('what', 10);
            $table->string('value', 310);
            $table->string('reason', 300);
            $table->string('actor', 100);
            $table->timestamps();
            $table->unique(['what', 'value']);
        });
        Schema::table('mail_servers', function (Blueprint $table): void {
            $table->string('imap', 500)->default('')->comment('see ImapAddress; empty for a server without mail')->change();
            $table->string('dav', 500)->default('')->after('imap')->comment('see DavAddress; empty for one without calendars');
        });
    }
};
