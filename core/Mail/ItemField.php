<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

/** What of an item is looked in by name. */
enum ItemField: string
{
    case From = 'from';
    case To = 'to';
    case Cc = 'cc';
    case Subject = 'subject';
    /** Of something attached. */
    case Name = 'name';
    /** Where something takes place, or somebody lives. */
    case Place = 'place';

    /** By which the words of one field are told from those of another in an index of all of them. */
    public function mark(): string
    {
        return match ($this) {
            self::From => 'f',
            self::To => 't',
            self::Cc => 'c',
            self::Subject => 's',
            self::Name => 'n',
            self::Place => 'p',
        };
    }

    /**
     * A text of the field as it stands in that index.
     *
     * @return list<string>
     */
    public function marked(string $text): array
    {
        return array_map(fn (string $word): string => $this->mark().$word, SearchWords::of($text));
    }
}
