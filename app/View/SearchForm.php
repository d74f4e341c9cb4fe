<?php

declare(strict_types=1);

namespace App\View;

use App\Models\User;
use App\Trees\Catalog\SearchQuery;
use Carbon\CarbonImmutable;
use Illuminate\Http\Request;
use InvalidArgumentException;
use Kaiseki\Core\Archive\EntryKind;
use Throwable;

/** The fields of a search, as they were filled in. */
final class SearchForm
{
    public readonly string $name;

    public readonly string $text;

    public readonly string $size;

    public readonly string $changedFrom;

    public readonly string $changedTo;

    public readonly string $owner;

    public readonly string $author;

    public readonly string $kind;

    /** What cannot be understood; null if all can. */
    public readonly ?string $problem;

    private readonly SearchQuery $query;

    public function __construct(Request $http, private readonly User $user)
    {
        $field = fn (string $name): string => mb_substr(trim($http->string($name)->value()), 0, 200);
        $this->name = $field('q');
        $this->text = $field('text');
        $this->size = $field('size');
        $this->changedFrom = $field('changed_from');
        $this->changedTo = $field('changed_to');
        $this->owner = $field('owner');
        $this->author = $field('author');
        $this->kind = in_array($field('kind'), ['f', 'd', 'l'], true) ? $field('kind') : '';
        $problem = null;
        $query = new SearchQuery;
        try {
            $query = $this->read();
        } catch (InvalidArgumentException $wrong) {
            $problem = $wrong->getMessage();
        }
        $this->problem = $problem;
        $this->query = $query;
    }

    public function query(?int $from = null, ?int $to = null): SearchQuery
    {
        $query = $this->query;

        return new SearchQuery(
            $query->name,
            $query->text,
            $query->sizeFrom,
            $query->sizeTo,
            $query->changedFrom,
            $query->changedTo,
            $query->owner,
            $query->kind,
            $from,
            $to,
            $query->author,
        );
    }

    public function isEmpty(): bool
    {
        return $this->query->isEmpty() || ($this->query->text === '' && mb_strlen($this->name) < 2 && $this->isNameOnly());
    }

    /** Whether more than the name is asked for. */
    public function isNameOnly(): bool
    {
        return $this->text.$this->size.$this->changedFrom.$this->changedTo.$this->owner.$this->author.$this->kind === '';
    }

    /** The fields as a part of an address. */
    public function address(): string
    {
        return http_build_query($this->fields());
    }

    /** @return array<string, string> name => what it was filled in with */
    public function fields(): array
    {
        return array_filter(
            [
                'q' => $this->name,
                'text' => $this->text,
                'size' => $this->size,
                'changed_from' => $this->changedFrom,
                'changed_to' => $this->changedTo,
                'owner' => $this->owner,
                'author' => $this->author,
                'kind' => $this->kind,
            ],
            fn (string $value): bool => $value !== '',
        );
    }

    /** @throws InvalidArgumentException */
    private function read(): SearchQuery
    {
        [$from, $to] = $this->size === '' ? [null, null] : SearchQuery::sizes($this->size);

        return new SearchQuery(
            $this->name,
            $this->text,
            $from,
            $to,
            $this->moment($this->changedFrom),
            $this->moment($this->changedTo, true),
            $this->owner,
            $this->kind === '' ? null : EntryKind::from($this->kind),
            author: $this->author,
        );
    }

    private function moment(string $words, bool $end = false): ?int
    {
        if ($words === '') {
            return null;
        }
        try {
            $moment = CarbonImmutable::parse($words, $this->user->zone);
        } catch (Throwable) {
            throw new InvalidArgumentException("\"$words\" is no moment. Write 2026-11-12, or 2026-11-12 19:30.");
        }
        // A day alone means all of it.
        $moment = $end && preg_match('/\d:\d/', $words) !== 1 ? $moment->endOfDay() : $moment;

        return $moment->getTimestamp() * 1_000_000_000;
    }
}
