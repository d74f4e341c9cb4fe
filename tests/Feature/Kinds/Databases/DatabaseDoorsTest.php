<?php

declare(strict_types=1);

use App\Models\Run;
use App\Models\Store;
use Symfony\Component\Process\Process;
use Tests\Support\Mariadb;

// What somebody does who can write a question, a dump or a log, and wants more than that.

beforeEach(function (): void {
    $this->server = new Mariadb($this->scratch()->path.'/server');
    $this->server->exec(
        'CREATE DATABASE fares', 'USE fares', 'CREATE TABLE tickets (id INT PRIMARY KEY, name VARCHAR(40))',
        "INSERT INTO tickets VALUES (1, 'Ann'), (2, 'Bo')",
    );
    $this->backup = $this->scratch()->folder('backup');
    $this->loot = $this->scratch()->path.'/loot';
    $this->server->addTo($this, 'fares-db');
});

afterEach(fn () => $this->server->stop());

function adoptBackup(object $test): void
{
    $adopted = $test->kaiseki('adopt', $test->backup, '--as=fares-db', '--kind=database', '--json');
    expect($adopted->code)->toBe(0, $adopted->text);
}

function restoreAll(object $test, string ...$more): Tests\Support\Answer
{
    return $test->kaiseki('restore', 'fares-db', '--at='.gmdate('Y-m-d\TH:i:s\Z', time() + 5), '--server=fares-db', '--json', ...$more);
}

/** @return array{list<string>, list<string>} accounts and schemas of the server */
function standing(Mariadb $server): array
{
    return [
        array_column($server->rows("SELECT CONCAT(user, '@', host) AS a FROM mysql.user ORDER BY 1"), 'a'),
        array_column($server->rows('SELECT schema_name AS s FROM information_schema.schemata ORDER BY 1'), 's'),
    ];
}

/** Changes the dump as somebody would who has it in hand. */
function tamper(object $test, string $after, string $with): void
{
    $file = "{$test->backup}/fares.sql";
    $dump = (string) file_get_contents($file);
    expect($dump)->toContain($after);
    file_put_contents($file, str_replace($after, "$after$with", $dump));
}

it('holds that a question is one that only reads, whatever its text is', function (): void {
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    adoptBackup($this);
    $secret = $this->scratch()->file('secret', 'harbour');
    chmod($secret, 0644);
    chmod($this->scratch()->path, 0777);
    [$before, $state] = [standing($this->server), $this->server->state('fares')];
    $questions = [
        'several statements' => ['SELECT 1; SET SESSION TRANSACTION READ WRITE; CREATE TABLE fares.hurt (id INT)', null],
        'a change behind a comment' => ['SELECT 1 /*;*/ ; DELETE FROM fares.tickets', null],
        'a file by a comment between' => ["SELECT 'x' INTO/**/OUTFILE '{$this->loot}'", null],
        'a file by another comment' => ["SELECT 'x' INTO # c\nDUMPFILE '{$this->loot}'", null],
        'a file by an executable comment' => ["SELECT 'x' /*!INTO OUTFILE*/ '{$this->loot}'", null],
        'a file that is read' => ["SELECT LOAD_FILE('$secret') AS f", '"f":null'],
        'accounts' => ['SELECT user FROM mysql.user', null],
        'what it may ask' => ['SELECT COUNT(*) AS n FROM tickets', '"n":"2"'],
        'very many rows' => [
            'SELECT a.id FROM tickets a, tickets b, tickets c, tickets d, tickets e, tickets f, tickets g, tickets h',
            '"id":"1"',
        ],
    ];
    foreach ($questions as $what => [$question, $gives]) {
        $answer = restoreAll($this, '--schema=then', "--query=$question");
        expect($answer->text)->not->toContain('harbour');
        if ($answer->code === 0) {
            $rows = $answer->json()['query']['after'];
            $gives === null ? expect(isset($rows['error']))->toBeTrue($what) : expect(json_encode($rows))->toContain($gives);
        }
        expect($answer->code)->toBeIn([0, 2], $what)->and($gives === null || $answer->code === 0)->toBeTrue($what);
        $this->server->exec('DROP DATABASE IF EXISTS `then`');
        expect(file_exists($this->loot))->toBeFalse($what)
            ->and(standing($this->server))->toEqual($before)
            ->and($this->server->state('fares'))->toEqual($state);
    }
});

it('holds that an account that is named for questions must be one that can only read', function (): void {
    $who = "asker@'127.0.0.1'";
    $add = function (): Tests\Support\Answer {
        putenv('KAISEKI_SERVER_PASSWORD='.Mariadb::PASSWORD);
        putenv('KAISEKI_ASKING_PASSWORD=low-water-3');
        $answer = $this->kaiseki('server', 'add', 'asked', "--port={$this->server->port}", '--user=keeper', '--asking-user=asker');
        putenv('KAISEKI_SERVER_PASSWORD');
        putenv('KAISEKI_ASKING_PASSWORD');

        return $answer;
    };
    foreach ([
        "GRANT SELECT, UPDATE ON fares.* TO $who", "GRANT SELECT, FILE ON *.* TO $who", "GRANT SUPER ON *.* TO $who",
        "GRANT SELECT ON fares.* TO $who WITH GRANT OPTION",
        "CREATE OR REPLACE ROLE r; GRANT DELETE ON fares.* TO r; GRANT r TO $who",
    ] as $grant) {
        $this->server->exec("CREATE OR REPLACE USER $who IDENTIFIED BY 'low-water-3'; $grant");
        expect($add()->code)->toBe(2, $grant);
    }
    $this->server->exec(
        "CREATE OR REPLACE USER $who IDENTIFIED BY 'low-water-3'", "GRANT SELECT (id, name) ON fares.tickets TO $who",
        "GRANT SELECT ON one.* TO $who",
    );
    expect($add()->code)->toBe(0);
    // And if it gets more later, nothing is asked any more.
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    adoptBackup($this);
    $ask = fn (string $schema): array => $this->kaiseki(
        'restore', 'fares-db', '--at='.gmdate('Y-m-d\TH:i:s\Z', time() + 5), '--server=asked', "--schema=$schema",
        '--query=SELECT CURRENT_USER() AS who, COUNT(*) AS n FROM fares.tickets', '--json',
    )->json();
    expect($ask('one')['query']['after']['rows'][0])->toBe(['who' => 'asker@127.0.0.1', 'n' => '2']);
    $this->server->exec("GRANT FILE ON *.* TO $who");
    expect($ask('two')['error'])->toContain('can do more than read');
});

it('holds that what is no row among the rows of a dump reaches no server that others use', function (string $line, string ...$how): void {
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    tamper($this, "(2,'Bo');\n", strtr($line, ['LOOT' => $this->loot])."\n");
    adoptBackup($this);
    [$before, $state] = [standing($this->server), $this->server->state('fares')];
    $answer = restoreAll($this, ...($how === [] ? ['--schema=then'] : $how));
    $failure = (string) Run::query()->value('failure');
    expect(file_exists($this->loot))->toBeFalse()->and($this->server->state('fares'))->toEqual($state);
    if ($answer->code === 0) { // it did no harm on the throw-away server, and is told
        expect(implode(' ', $answer->json()['remarks']))->toContain('what is no row');
        $this->server->exec('DROP DATABASE IF EXISTS `then`');
    } else {
        expect($failure)->toContain('looked at again, its schemas and accounts are as they were');
    }
    [$accounts, $schemas] = standing($this->server);
    expect(preg_grep('/^kaiseki_(?!aside|keeper)/', [...$accounts, ...$schemas]))->toBe([])
        ->and(array_diff($accounts, $before[0]))->toBe([])
        ->and(preg_grep('/evil/', $schemas))->toBe([]);
})->with([
    'an account' => ["CREATE USER evil@'%' IDENTIFIED BY 'x';"],
    'an account, in place' => ["CREATE USER evil@'%' IDENTIFIED BY 'x';", '--in-place'],
    'a file' => ["SELECT 'x' INTO OUTFILE 'LOOT';"], 'a shell' => ['\\! touch LOOT'],
    'a shell by its word' => ['system touch LOOT'], 'a shell in a statement' => ["SELECT 1;\n\\! touch LOOT\n"],
    'a shell behind another delimiter' => ["DELIMITER ;;\n\\! touch LOOT\n;;\nDELIMITER ;"],
    'a schema' => ['CREATE DATABASE evil;'], 'another schema' => ["USE `fares`;\nDELETE FROM tickets;"],
    'rows by another quote' => ["SET SQL_MODE='NO_BACKSLASH_ESCAPES';\nINSERT INTO `tickets` VALUES (3,'\\');CREATE DATABASE evil; -- ');"],
    'rows in another character set' => ["SET NAMES gbk;\nINSERT INTO `tickets` VALUES (3,'\xbf\\');CREATE DATABASE evil; -- ');"],
    'a file into a table' => ["LOAD DATA LOCAL INFILE '/etc/passwd' INTO TABLE tickets (name);"],
    'a function' => ["INSERT INTO `tickets` VALUES (3,LOAD_FILE('/etc/passwd'));"],
    'a program written there' => ["tee LOOT\nSELECT 1;\nnotee"],
    'a row of a query' => ['REPLACE INTO `fares`.`tickets` SELECT 1, user FROM mysql.user;'],
]);

it('holds that on the throw-away server a dump has no power in anybody\'s name, and no way out', function (string $program): void {
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $program = strtr($program, ['LOOT' => $this->loot]);
    tamper(
        $this, "(2,'Bo');\n",
        "DELIMITER ;;\nCREATE OR REPLACE DEFINER=`root`@`localhost` PROCEDURE evil() BEGIN $program; END ;;\nDELIMITER ;\nCALL evil();\n",
    );
    adoptBackup($this);
    $answer = restoreAll($this, '--schema=then');
    expect($answer->code)->not->toBe(0)
        ->and($answer->json()['error'])->toMatch('/denied|cannot execute|secure-file-priv/')
        ->and(file_exists($this->loot))->toBeFalse();
})->with([
    'a log as a file' => ["SET GLOBAL general_log_file = 'LOOT'; SET GLOBAL general_log = 1"],
    'a file' => ["SELECT 'x' INTO OUTFILE 'LOOT'"], 'an account' => ["CREATE USER evil@'%'"],
    'who has the power' => ['SELECT user INTO @who FROM mysql.global_priv LIMIT 1'],
    'a plugin' => ["INSTALL SONAME 'ha_federatedx'"], 'a primary' => ["CHANGE MASTER TO MASTER_HOST='192.0.2.1'"],
]);

it('holds that a dump that tells a replica whom to follow is loaded, and nobody is followed', function (): void {
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $dump = (string) file_get_contents("{$this->backup}/fares.sql");
    file_put_contents(
        "{$this->backup}/fares.sql",
        preg_replace(
            '/^-- (CHANGE MASTER TO MASTER_LOG_FILE|SET GLOBAL gtid)/m', '$1',
            preg_replace('/^(-- Dump completed)/m', "START ALL SLAVES;\n$1", $dump),
        ),
    );
    adoptBackup($this);
    $answer = restoreAll($this, '--schema=then');
    expect($answer->code)->toBe(0, $answer->text)
        ->and($this->server->state('then'))->toEqual($this->server->state('fares'))
        ->and($this->server->rows('SHOW ALL SLAVES STATUS'))->toBe([]);
});

it('holds that what a dump has run in the name of root runs in the name of nobody who can do more than the schema', function (): void {
    $this->server->exec(
        'CREATE USER limited@localhost; GRANT SELECT, INSERT, UPDATE, TRIGGER ON fares.* TO limited@localhost',
        'CREATE DEFINER=root@localhost EVENT sweep ON SCHEDULE EVERY 1 DAY DO DELETE FROM fares.tickets WHERE id > 1000',
        'CREATE DEFINER=limited@localhost TRIGGER small BEFORE INSERT ON tickets FOR EACH ROW SET NEW.name = LEFT(NEW.name, 10)',
        'CREATE DEFINER=root@localhost FUNCTION double_it(n INT) RETURNS INT DETERMINISTIC RETURN 2 * n',
    );
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    tamper($this, 'DELETE FROM fares.tickets WHERE id > 1000', ' AND LOAD_FILE("/etc/passwd") IS NOT NULL');
    adoptBackup($this);
    $placed = restoreAll($this, '--in-place');
    expect($placed->code)->toBe(0, $placed->text)
        ->and(implode(' ', $placed->json()['remarks']))->toContain(
            'event sweep ran in the name of root@localhost, who may do more than fares',
        );
    $definers = array_column($this->server->rows(
        "SELECT event_name AS n, definer AS d FROM information_schema.events WHERE event_schema = 'fares'"
        ." UNION SELECT trigger_name, definer FROM information_schema.triggers WHERE trigger_schema = 'fares'"
        ." UNION SELECT routine_name, definer FROM information_schema.routines WHERE routine_schema = 'fares'",
    ), 'd', 'n');
    // The function is as it stood, so root's name says nothing new; the event is another one; the trigger's account reaches no
    // further than fares.
    expect($definers['double_it'])->toBe('root@localhost')
        ->and($definers['sweep'])->toStartWith('kaiseki_keeper_')
        ->and($definers['small'])->toBe('limited@localhost');
    expect($this->server->one(
        "SELECT JSON_VALUE(priv, '$.account_locked') FROM mysql.global_priv WHERE user LIKE 'kaiseki\\_keeper%'",
    ))->toBe('1');
    $this->server->exec("INSERT INTO fares.tickets VALUES (7, 'a name that is too long')");
    expect($this->server->one('SELECT name FROM fares.tickets WHERE id = 7'))->toBe('a name tha')
        ->and($this->server->one('SELECT fares.double_it(4)'))->toBe('8');
});

it('holds that a full that this desk made of a server goes back there with the accounts it names', function (): void {
    $this->server->exec('CREATE DEFINER=root@localhost PROCEDURE count_them() SELECT COUNT(*) FROM tickets');
    Store::query()->create(['name' => 'near', 'site' => 'boathouse', 'root' => $this->scratch()->folder('near')]);
    $made = $this->kaiseki('protect', 'fares-db', '--server=fares-db', '--store=near', '--level=full', '--json');
    expect($made->code)->toBe(0, $made->text);
    $this->server->exec('DROP DATABASE fares');
    $placed = restoreAll($this, '--in-place');
    expect($placed->code)->toBe(0, $placed->text)
        ->and($this->server->one("SELECT definer FROM information_schema.routines WHERE routine_schema = 'fares'"))->toBe('root@localhost');
});

it('holds that an account that cannot make another is told before anything begins', function (): void {
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    adoptBackup($this);
    $this->server->exec("REVOKE GRANT OPTION ON *.* FROM keeper@'127.0.0.1'");
    $answer = restoreAll($this, '--schema=then');
    expect($answer->code)->toBe(3, $answer->text)->and($answer->json()['error'])->toContain('WITH GRANT OPTION');
});

it('gives a dump no shell in the hand sheet', function (string $line): void {
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    tamper($this, "(2,'Bo');\n", strtr($line, ['LOOT' => $this->loot])."\n");
    adoptBackup($this);
    $sheet = "{$this->scratch()->path}/sheet.sh";
    expect($this->kaiseki('hand-sheet', 'fares-db', "--out=$sheet")->code)->toBe(0);
    $empty = new Mariadb($this->scratch()->path.'/empty', 8);
    $arguments = ['--no-defaults', "--socket={$this->scratch()->path}/empty/s.sock", '--user=root'];
    (new Process(['sh', $sheet, ...$arguments], null, null, null, null))->run();
    expect(file_exists($this->loot))->toBeFalse()
        ->and(file_get_contents($sheet))->not->toMatch('/mariadb "\$@"(?! --sandbox --binary-mode)/');
    $empty->stop();
})->with([
    '\\! touch LOOT', "SELECT 1;\n\\! touch LOOT", 'system touch LOOT', "tee LOOT\nSELECT 1;",
    "DELIMITER ;;\n\\! touch LOOT\n;;\nDELIMITER ;",
]);
