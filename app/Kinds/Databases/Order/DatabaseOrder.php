<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use App\Kinds\Databases\Databases;
use App\Kinds\Databases\Server\DatabaseServer;
use App\Models\Workload;
use InvalidArgumentException;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\Demands;

/** What is to be restored of a database, and how: as it is confirmed, kept with the run, and carried out. */
final readonly class DatabaseOrder
{
    public const BESIDE = 'beside';

    public const IN_PLACE = 'in-place';

    public const TABLES = 'tables';

    public const ROWS = 'rows';

    public const REVERSE = 'reverse';

    /**
     * @param  array<string, string>  $schemas  schema => its name at the target
     * @param  list<string>|null  $tables  of the one schema; null for all
     * @param  list<string>  $skip  transactions that are left out
     * @param  string  $gtid  the transaction whose rows come back, or that is reversed
     * @param  list<string>  $before  a command, run before anything is put in place
     * @param  list<string>  $after
     * @param  string  $query  a question of the operator's own, asked before and after
     * @param  bool  $takeConflicts  rows that somebody changed since are overwritten too
     * @param  CopyRule  $copies  which are to be read, or not
     * @param  Demands  $demands  on a dump
     */
    public function __construct(
        public string $way,
        public string $server,
        public array $schemas,
        public ?array $tables,
        public Stop $stop,
        public array $skip = [],
        public string $gtid = '',
        public string $sentence = '',
        public array $before = [],
        public array $after = [],
        public int $commandLimit = 600,
        public string $query = '',
        public bool $takeConflicts = false,
        public CopyRule $copies = new CopyRule,
        public Demands $demands = new Demands,
    ) {
    }

    /** Whether what is there now is replaced. */
    public function isInPlace(): bool
    {
        return $this->way === self::IN_PLACE || ($this->way === self::TABLES && ! $this->isBeside());
    }

    /** Whether only rows of live tables are changed. */
    public function isByRows(): bool
    {
        return $this->way === self::ROWS || $this->way === self::REVERSE;
    }

    /** Whether all tables come back, so that the time it takes tells what that takes. */
    public function isWhole(): bool
    {
        return ! $this->isByRows() && $this->tables === null;
    }

    private function isBeside(): bool
    {
        foreach ($this->schemas as $from => $to) {
            if ((string) $from !== $to) {
                return true;
            }
        }

        return false;
    }

    public function server(): DatabaseServer
    {
        return DatabaseServer::query()->where('name', $this->server)->first() ??
            throw CannotRestore::because("There is no server named \"{$this->server}\" any more.");
    }

    /** How its sets are read. */
    public function reading(Workload $workload): SetReading
    {
        return new SetReading($workload, $this->copies, $this->demands);
    }

    /** Which copies are read, and what a dump must be. */
    public function withReading(CopyRule $copies, Demands $demands): self
    {
        return self::fromArray(
            array_filter(['use' => $copies->use, 'avoid' => $copies->avoid, 'demands' => $demands->list()]) + $this->toArray(),
        );
    }

    public function withSentence(string $sentence): self
    {
        return self::fromArray(['sentence' => $sentence] + $this->toArray());
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        // What is as it mostly is stands not there: an order of a version before is the same order.
        $reading = array_filter([
            'use' => $this->copies->use,
            'avoid' => $this->copies->avoid,
            'demands' => $this->demands == new Demands ? '' : $this->demands->list(),
        ]);

        return ['kind' => Databases::NAME, 'stop' => [$this->stop->kind, $this->stop->value]] +
            array_diff_key(get_object_vars($this), ['copies' => 0, 'demands' => 0]) +
            $reading;
    }

    /** @param  array<string, mixed>  $plan */
    public static function fromArray(array $plan): self
    {
        return new self(
            (string) $plan['way'],
            (string) $plan['server'],
            $plan['schemas'],
            $plan['tables'],
            Stop::of($plan['stop'][0], $plan['stop'][1]),
            $plan['skip'],
            $plan['gtid'],
            $plan['sentence'],
            $plan['before'],
            $plan['after'],
            $plan['commandLimit'],
            $plan['query'],
            $plan['takeConflicts'],
            new CopyRule($plan['use'] ?? [], $plan['avoid'] ?? []),
            isset($plan['demands']) ? Demands::parse($plan['demands']) : new Demands,
        );
    }

    /** @throws InvalidArgumentException if a question is more than one that only reads */
    public static function question(string $query): string
    {
        $query = rtrim(trim($query), ';');
        if (
            $query !== '' &&
            (preg_match('/^(SELECT|SHOW|CHECKSUM|WITH)\b/i', $query) !== 1 ||
                preg_match('/\b(INTO\s+(OUTFILE|DUMPFILE)|FOR\s+UPDATE|SLEEP\s*\(|GET_LOCK\s*\()/i', $query) === 1)
        ) {
            throw new InvalidArgumentException('A question to ask before and after is one SELECT.');
        }

        return $query;
    }

    public function whatInWords(): string
    {
        $names = array_map(strval(...), array_keys($this->schemas));

        return match ($this->way) {
            self::ROWS => "the rows that transaction {$this->gtid} touched",
            self::REVERSE => "what transaction {$this->gtid} changed",
            self::TABLES => 'the '.
                (count($this->tables ?? []) === 1 ? 'table ' : 'tables ').
                implode(', ', array_map(fn (string $table): string => "{$names[0]}.$table", $this->tables ?? [])),
            default => (count($names) === 1 ? 'the schema ' : 'the schemas ').implode(', ', $names),
        };
    }

    /** The order as one sentence, with moments in a zone. */
    public function inWords(string $workload, string $zone = 'UTC'): string
    {
        $skip = $this->skip === [] ? '' : ', without '.implode(', ', $this->skip);
        if ($this->way === self::REVERSE) {
            return "Reverse {$this->whatInWords()} in {$this->server}, row by row, leaving rows that were changed since".
                ($this->takeConflicts ? ' no exception' : ' as they are').
                ', and check every row.';
        }
        if ($this->way === self::ROWS) {
            return "Bring {$this->whatInWords()} of $workload back into {$this->server} by their keys, as they were before it, leaving ".
                'rows that were changed since'.
                ($this->takeConflicts ? ' no exception' : ' as they are').
                ', and check every row.';
        }
        $to = $this->isInPlace()
            ? "in its place on {$this->server}, keeping what is there now aside"
            : 'into '.implode(', ', $this->schemas)." on {$this->server}, touching nothing that is there";

        return "Restore {$this->whatInWords()} of $workload {$this->stop->words($zone)}$skip $to, and check it by rows, checksums and ".
            'keys.';
    }
}
