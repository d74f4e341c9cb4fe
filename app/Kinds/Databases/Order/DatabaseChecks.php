<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use App\Instance;
use App\Kinds\Databases\Intake\DumpFacts;
use App\Kinds\Databases\Run\ThrowAway;
use App\Kinds\Databases\Server\CannotReachServer;
use App\Kinds\Databases\Server\DatabaseServer;
use App\Kinds\Databases\Server\Question;
use App\Kinds\Databases\Server\ServerFacts;
use App\Kinds\Databases\Server\ServerLink;
use App\Models\Run;
use App\Words;
use Kaiseki\Core\Proof\CheckLine;
use PDOException;

/** What is looked at before anything is done to a server: whether it can be done there, and what the operator should know. */
final class DatabaseChecks
{
    private const LOADING = [
        'SELECT',
        'INSERT',
        'CREATE',
        'DROP',
        'ALTER',
        'INDEX',
        'REFERENCES',
        'TRIGGER',
        'CREATE VIEW',
        'SHOW VIEW',
        'CREATE ROUTINE',
        'ALTER ROUTINE',
        'EVENT',
        'LOCK TABLES',
    ];

    private const ROWS = [
        'SELECT',
        'INSERT',
        'UPDATE',
        'DELETE',
        'CREATE',
        'DROP',
        'ALTER',
        'INDEX',
        'LOCK TABLES',
        'SHOW VIEW',
        'BINLOG REPLAY',
    ];

    /** @var list<CheckLine> */
    private array $lines = [];

    /** @param  list<Reach>  $reaches */
    private function __construct(private readonly DatabaseOrder $order, private readonly array $reaches)
    {
    }

    /**
     * Asks the server.
     *
     * @param  list<Reach>  $reaches
     */
    public static function of(DatabaseOrder $order, array $reaches, ?Run $run = null): CheckedServer
    {
        $checks = new self($order, $reaches);
        try {
            $link = ServerLink::to($order->server());
            $facts = ServerFacts::ask($link);
            $checks->add('the server answers', 'passed', "{$facts->version} as {$facts->account}");
            $checks->all($link, $facts, $run);
        } catch (CannotReachServer|CannotRestore|PDOException $cannot) {
            $checks->add('the server answers', 'failed', $cannot->getMessage());
        }

        return new CheckedServer($checks->lines);
    }

    private function all(ServerLink $link, ServerFacts $facts, ?Run $run): void
    {
        $this->privileges($facts);
        $this->accounts($facts);
        $this->versions($facts);
        $this->settings($link, $facts);
        $this->names($link, $run);
        $this->tables();
        if ($this->order->isByRows() && $link->one('SELECT @@GLOBAL.slave_run_triggers_for_rbr') === 'ENFORCE') {
            $this->add(
                'triggers',
                'failed',
                'the server runs triggers also for row events (slave_run_triggers_for_rbr is ENFORCE): they would change rows once more. '.
                    'Set it to NO for the time being.',
            );
        }
        $this->room($link);
        $this->sessions($link);
        if ($this->order->isInPlace() && $facts->replicas !== []) {
            $this->add(
                'replicas that are attached',
                'note',
                implode(', ', $facts->replicas).
                    ': what is put in place is not in the log, so they do not follow. Set them up anew from the next full.',
            );
        }
    }

    private function add(string $check, string $result, string $detail): void
    {
        $this->lines[] = new CheckLine($check, $result, mb_scrub($detail));
    }

    private function privileges(ServerFacts $facts): void
    {
        $lacking = $facts->lacking([...$this->order->isByRows() ? self::ROWS : self::LOADING, ...$facts->keepsLog ? ['BINLOG ADMIN'] : []]);
        $this->add(
            'the account may do it',
            $lacking === [] ? 'passed' : 'failed',
            $lacking === []
                ? ($facts->privileges === ['ALL']
                    ? 'all privileges'
                    : 'it has what is needed')
                : "{$facts->account} lacks ".implode(', ', $lacking).' on *.*',
        );
    }

    /** What comes out of an archive is brought there by an account of the run's own. */
    private function accounts(ServerFacts $facts): void
    {
        $this->add(
            'an account for this run alone',
            $facts->mayGrant ? 'passed' : 'failed',
            $facts->mayGrant
                ? 'can be made: it is granted for the schema of this order and nothing else'
                : "{$facts->account} may not make one: grant it CREATE USER, and its own rights WITH GRANT OPTION",
        );
        if ($this->order->query !== '') {
            $because = Question::unfit($this->order->server(), $facts->mayGrant);
            $this->add('the question', $because === null ? 'passed' : 'failed', $because ?? 'is asked by an account that can only read');
        }
    }

    private function versions(ServerFacts $facts): void
    {
        $there = ServerFacts::release($facts->version);
        $ours = ServerFacts::release(ThrowAway::version());
        foreach ($this->reaches as $reach) {
            $version = DumpFacts::ofSet($reach->dump)->version;
            $from = ServerFacts::release($version);
            if ($version === '') {
                $this->add('version', 'note', "{$reach->dump->name} does not say of which version it is");
            } elseif (version_compare($from, $there, '>') && ! $this->order->isByRows()) {
                $this->add(
                    'version',
                    'failed',
                    "{$reach->dump->name} is of $version, and the server is older: {$facts->version}. What is new in $from it does not ".
                        "know. Choose a server of at least $from.",
                );
            } elseif (version_compare($from, $ours, '>')) {
                $this->add(
                    'version',
                    'failed',
                    "{$reach->dump->name} is of $version, and the server that works here is of $ours: install a MariaDB of at least ".
                        "$from on this machine.",
                );
            } else {
                $this->add(
                    'version',
                    $from === $there ? 'passed' : 'note',
                    $from === $there ? "$from, as the dump" : "the dump is of $from, the server of $there",
                );
            }
        }
    }

    private function settings(ServerLink $link, ServerFacts $facts): void
    {
        $own = $this->reaches === [] ? null : DatabaseServer::of($this->reaches[0]->dump->workload)?->facts;
        if ($own === null || ($own['uid'] ?? '') === $facts->uid) {
            return;
        }
        $said = ['sqlMode' => 'SQL mode', 'charset' => 'character set', 'zone' => 'time zone', 'lowerCase' => 'case of table names'];
        foreach ($said as $field => $words) {
            $there = $facts->toArray()[$field];
            if (($own[$field] ?? null) !== null && $own[$field] !== $there) {
                $this->add($words, 'note', "it is $there there, and {$own[$field]} where it comes from");
            }
        }
    }

    private function names(ServerLink $link, ?Run $run): void
    {
        foreach ($this->order->schemas as $from => $to) {
            $exists = $link->hasSchema($to);
            if ($this->order->isByRows()) {
                $this->add(
                    "the schema $to is there",
                    $exists ? 'passed' : 'failed',
                    $exists
                        ? 'its rows are changed one by one'
                        : "there is no schema $to on {$this->order->server}: restore the whole schema",
                );
            } elseif ($this->order->isInPlace()) {
                $this->add(
                    "the schema $to",
                    'note',
                    $exists ? 'what is there now changes places with what comes back, and is kept aside' : 'it is not there, and is made',
                );
            } elseif (
                $exists &&
                ! (
                    $run !== null &&
                    $link->one('SELECT 1 FROM information_schema.schemata WHERE schema_name = ? AND schema_comment = ?', [
                        $to,
                        "kaiseki run {$run->label()}",
                    ]) !== null
                )
            ) {
                $this->add(
                    "the name $to",
                    'failed',
                    "a schema of that name is on {$this->order->server} already: choose another name, or restore in place",
                );
            } else {
                $this->add("the name $to", 'passed', 'free: nothing that is there is touched');
            }
        }
    }

    /** Tables that were asked for, and that neither the dump nor the logs know. */
    private function tables(): void
    {
        foreach ($this->reaches as $reach) {
            $known = DumpFacts::ofSet($reach->dump)->schemas[$reach->schemas[0]] ?? [];
            $missing = $known === [] ? [] : array_diff($this->order->tables ?? [], $known);
            $missing = array_filter($missing, function (string $table) use ($reach): bool {
                $logged = new Transactions($reach->dump->workload);
                $touching = $reach->logs === [] ? [] : $logged->all(null, null, "{$reach->schemas[0]}.$table");
                foreach ($touching as $transaction) {
                    return false;
                }

                return true;
            });
            if ($missing !== []) {
                $this->add(
                    'the tables',
                    'failed',
                    "{$reach->schemas[0]} has no ".implode(', ', $missing).'. It has: '.implode(', ', array_slice($known, 0, 50)),
                );
            }
        }
    }

    private function room(ServerLink $link): void
    {
        $needed = 0;
        foreach ($this->reaches as $reach) {
            $needed += max((int) $reach->dump->tree_bytes, $reach->dump->bytes) * 2 + $reach->logBytes() * 2;
        }
        $free = (int) disk_free_space(Instance::folder('tmp'));
        $this->add(
            'room for the work here',
            $free < $needed + ThrowAway::ROOM ? 'failed' : 'passed',
            Words::size($free).' free, about '.Words::size($needed + ThrowAway::ROOM).' needed',
        );
        try {
            $data = (string) $link->one('SELECT @@datadir');
            $local = $link->one('SELECT @@hostname') === gethostname() && is_dir($data);
        } catch (PDOException) {
            $local = false;
        }
        if ($local && ! $this->order->isByRows()) {
            $there = (int) disk_free_space($data);
            $this->add(
                'room at the server',
                $there < $needed ? 'failed' : 'passed',
                Words::size($there).' free, about '.Words::size($needed).' needed',
            );
        } elseif (! $this->order->isByRows()) {
            $this->add('room at the server', 'note', 'it cannot be seen from here; about '.Words::size($needed).' are needed');
        }
    }

    private function sessions(ServerLink $link): void
    {
        $sessions = [];
        foreach (
            $link->rows(
                'SELECT user, host, db, command, time, LEFT(COALESCE(info, ""), 60) AS info FROM information_schema.processlist WHERE id '.
                    '<> CONNECTION_ID() AND db IS NOT NULL',
            ) as $row
        ) {
            if (in_array($row['db'], $this->order->schemas, true)) {
                $sessions[] =
                    "{$row['user']}@{$row['host']} ({$row['command']}, {$row['time']} s".
                    (($row['info'] ?? '') === '' ? '' : ": {$row['info']}").
                    ')';
            }
        }
        if ($this->order->isInPlace() || $this->order->isByRows()) {
            $this->add(
                'sessions at work there',
                $sessions === [] ? 'passed' : 'note',
                $sessions === []
                    ? 'none'
                    : count($sessions).': '.implode('; ', array_slice($sessions, 0, 5)).'. A command before can stop what uses it.',
            );
        }
    }
}
