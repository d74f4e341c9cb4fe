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
        Schema::create('trail_rule', function (Blueprint $table): void {
            $table->comment('How long the trail is kept: the last row counts, null for ever. Behind walls the desk only reads it.');
            $table->id();
            $table->unsignedInteger('days')->nullable();
            $table->dateTime('set_at');
        });
        Schema::create('trail_expired', function (Blueprint $table): void {
            $table->comment('Up to which seal entries went by the rule; their seals stay, so that the chain goes on.');
            $table->id();
            $table->unsignedBigInteger('number');
            $table->dateTime('at');
        });
        // With the rights of the owner, and by the rule alone: the desk, which calls it, can delete nothing of the trail itself.
        DB::unprepared('DROP PROCEDURE IF EXISTS expire_trail'); // of a schema whose tables were dropped
        DB::unprepared(<<<'SQL'
            CREATE PROCEDURE expire_trail() MODIFIES SQL DATA SQL SECURITY DEFINER
            BEGIN
                DECLARE kept INT UNSIGNED DEFAULT (SELECT days FROM trail_rule ORDER BY id DESC LIMIT 1);
                DECLARE until BIGINT UNSIGNED;
                IF kept IS NOT NULL THEN
                    SELECT MAX(s.number) INTO until FROM trail_seals s JOIN trail t ON t.id = s.entry_id
                        WHERE t.at < UTC_TIMESTAMP() - INTERVAL kept DAY;
                    IF until IS NOT NULL THEN
                        INSERT INTO trail_expired (number, at) VALUES (until, UTC_TIMESTAMP());
                        DELETE t FROM trail t JOIN trail_seals s ON s.entry_id = t.id
                            WHERE s.number <= until AND t.at < UTC_TIMESTAMP() - INTERVAL kept DAY;
                    END IF;
                END IF;
            END
            SQL);
    }
};
