<?php

declare(strict_types=1);

namespace App\Kinds\Files\Order;

use App\Kinds\Files\Files;
use App\Models\Host;
use App\Models\RecoveryRequest;
use Kaiseki\Core\Files\ConflictRule;

/** What was said of an order of files, as it is kept with its request. */
final readonly class FilesSaid
{
    private const VERSION = 1;

    /**
     * @param  list<string>  $selection  paths, percent-encoded
     * @param  string  $destination  one of Destination::KINDS
     * @param  string|null  $folder  below the original, or of the host
     * @param  int|null  $host  id, where the destination is a host
     * @param  array<string, string>  $conflictIn  folder, percent-encoded => the rule that holds in it instead
     * @param  string  $renameTo  another name for the one thing that is selected, percent-encoded; '' for its own
     * @param  bool  $acrossPoints  each file from the newest point at which it can be read and meets the demands
     * @param  bool  $permissionsOnly  whether nothing but permissions comes back, to what stands there
     * @param  bool  $isPicked  whether somebody picked or took out anything; until then what was asked for is picked if it is there
     */
    public function __construct(
        public array $selection = [],
        public string $destination = 'new-folder',
        public ?string $folder = null,
        public ?int $host = null,
        public string $conflict = 'beside',
        public array $conflictIn = [],
        public bool $flat = false,
        public string $renameTo = '',
        public bool $acrossPoints = false,
        public bool $isPicked = false,
        public bool $permissionsOnly = false,
    ) {
    }

    public static function of(RecoveryRequest $request): self
    {
        $known = array_intersect_key($request->saidOf(Files::NAME), get_class_vars(self::class));

        return new self(...$known);
    }

    /** The same with other values of some of its fields. */
    public function with(mixed ...$changes): self
    {
        return new self(...$changes + get_object_vars($this));
    }

    /** @param  list<string>  $paths bytes */
    public function select(array $paths): self
    {
        return $this->with(selection: array_map(rawurlencode(...), array_values(array_unique($paths))), isPicked: true);
    }

    /** @return list<string> the selected paths, as bytes without a leading slash */
    public function paths(): array
    {
        return array_map(rawurldecode(...), $this->selection);
    }

    /** @return array<array-key, ConflictRule> folder => the rule that holds in it instead */
    public function conflictRules(): array
    {
        $rules = [];
        foreach ($this->conflictIn as $folder => $rule) {
            $rules[rawurldecode($folder)] = ConflictRule::from($rule);
        }

        return $rules;
    }

    public function host(): ?Host
    {
        return $this->host === null ? null : Host::query()->find($this->host);
    }

    /** Takes the place of what was said before; the request is not saved yet. */
    public function keepOn(RecoveryRequest $request): RecoveryRequest
    {
        return $request->say(Files::NAME, self::VERSION, get_object_vars($this));
    }
}
