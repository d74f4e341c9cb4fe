<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/** Items, and the servers that have them. Where an item lay when is not written down here: it is what `versions` says of its contents. */
return new class extends Migration
{
    public function up(): void
    {
        DB::statement(<<<'SQL'
            CREATE TABLE items (
                id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                workload_id BIGINT UNSIGNED NOT NULL,
                identity BINARY(32) NOT NULL,
                kind CHAR(1) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
                message_id VARCHAR(500) NOT NULL,
                thread BIGINT NOT NULL,
                subject VARCHAR(1000) NOT NULL,
                sender VARCHAR(500) NOT NULL,
                recipients VARCHAR(1000) NOT NULL,
                sent_at BIGINT NULL,
                received_at BIGINT NOT NULL,
                size BIGINT NOT NULL,
                attachments SMALLINT UNSIGNED NOT NULL,
                details MEDIUMTEXT NOT NULL,
                worded TINYINT NOT NULL,
                UNIQUE KEY identity (workload_id, identity),
                KEY newest (workload_id, received_at, id),
                KEY message (workload_id, message_id(40)),
                KEY threads (workload_id, thread),
                KEY unworded (workload_id, worded, id)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin
              COMMENT='one row per item of a workload, whatever its file is called; identity: see Message::identityOf'
            SQL);
        // A content may hold several, as an mbox does. item_id 0: it was looked into, and holds none.
        DB::statement(<<<'SQL'
            CREATE TABLE item_contents (
                workload_id BIGINT UNSIGNED NOT NULL,
                digest BINARY(32) NOT NULL,
                part INT UNSIGNED NOT NULL,
                item_id BIGINT UNSIGNED NOT NULL,
                start BIGINT NOT NULL,
                length BIGINT NOT NULL,
                form VARCHAR(10) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
                PRIMARY KEY (workload_id, digest, part),
                KEY items (item_id)
            ) ENGINE=InnoDB COMMENT='where items stand in the contents of files'
            SQL);
        // The folder of a Maildir, or an mbox itself.
        DB::statement(<<<'SQL'
            CREATE TABLE item_folders (
                path_id BIGINT NOT NULL PRIMARY KEY,
                workload_id BIGINT UNSIGNED NOT NULL,
                mailbox VARCHAR(300) NOT NULL,
                folder VARCHAR(600) NOT NULL,
                KEY mailboxes (workload_id, mailbox(100), folder(100))
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin COMMENT='which paths are folders of which mailbox'
            SQL);
        // Without a key of that very name InnoDB loses rows of an index that was emptied; it takes only numbers that grow.
        DB::statement(<<<'SQL'
            CREATE TABLE item_terms (
                FTS_DOC_ID BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                item_id BIGINT UNSIGNED NOT NULL,
                terms TEXT NOT NULL,
                UNIQUE KEY item (item_id),
                FULLTEXT KEY terms (terms)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin COMMENT='words of fields, each with the mark of its field'
            SQL);
        DB::statement(<<<'SQL'
            CREATE TABLE item_words (
                FTS_DOC_ID BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                item_id BIGINT UNSIGNED NOT NULL,
                words MEDIUMTEXT NOT NULL,
                UNIQUE KEY item (item_id),
                FULLTEXT KEY words (words)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin COMMENT='words of fields, bodies and attachments'
            SQL);
        DB::statement(<<<'SQL'
            CREATE TABLE item_marks (
                workload_id BIGINT UNSIGNED NOT NULL PRIMARY KEY,
                version_id BIGINT UNSIGNED NOT NULL
            ) ENGINE=InnoDB COMMENT='versions of a workload up to this id were looked at'
            SQL);
        Schema::create('mail_servers', function (Blueprint $table): void {
            $table->comment('Servers that items are brought back to. The password is encrypted with the application key.');
            $table->id();
            $table->string('name', 100)->unique();
            $table->string('imap', 500)->comment('see ImapAddress');
            $table->string('user', 200)->comment('an account that may open every mailbox');
            $table->text('password');
            $table->string('naming', 200)->comment('the name of a mailbox there, with {mailbox}');
            $table->string('site')->default('boathouse');
            $table->timestamps();
        });
        Schema::create('mail_originals', function (Blueprint $table): void {
            $table->comment('Which server the mailboxes of a workload are on.');
            $table->foreignId('workload_id')->primary()->constrained()->cascadeOnDelete();
            $table->foreignId('server_id')->constrained('mail_servers');
        });
    }
};
