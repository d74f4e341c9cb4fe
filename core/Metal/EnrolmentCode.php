<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/**
 * What somebody types on a machine so that its desk knows it: a number, which says for which enrolment it is, and words that nobody
 * guesses in three tries: 256 words, so that four of them are one of 4,294,967,296.
 */
final class EnrolmentCode
{
    /** Short, and told from each other when they are read out. */
    private const WORDS =
        'acorn album alder amber anchor angle apple april arrow aspen atlas autumn badge bagel baker bamboo banner barley basin '.
        'basket beacon beaver bench berry birch bison blanket blossom bonnet border bottle boulder branch brandy bread bridge '.
        'bronze brook bucket butter button cabin cactus camel candle canoe canvas carbon cargo carpet carrot castle cedar '.
        'cellar chalk cherry chimney circle citrus clover cobalt coffee comet copper coral cotton cradle crayon cricket crystal '.
        'curtain cymbal daisy damsel danube delta denim desert diesel dolphin donkey dragon drum eagle easel echo elbow ember '.
        'engine falcon feather fennel fiddle flint flute forest fossil galaxy garden garlic ginger glacier goblet granite '.
        'gravel guitar hammer harbor harvest hazel helmet herring hockey honey hotel iceberg indigo island ivory jacket jaguar '.
        'jasmine jigsaw jungle juniper kayak kernel kettle kitten ladder lagoon lantern lemon lentil lilac linen lizard lobster '.
        'locket lotus magnet mango maple marble meadow melon mentor meteor mirror mosaic muffin mustard napkin nectar needle '.
        'nickel nougat novel nutmeg oasis ocean olive onion opal orange orbit orchid otter oxygen oyster paddle panda papaya '.
        'parcel parrot pebble pepper picnic pigeon pillow pirate planet plum pocket polar poppy potato prairie puffin pumpkin '.
        'puzzle quartz rabbit radish raven ribbon river rocket saddle saffron salmon sandal sardine satin scarf shadow shovel '.
        'silver sketch slipper sonnet spider spinach spiral sponge squash stable summer sunset tablet talon tango teapot temple '.
        'thimble thistle thunder ticket tiger timber tomato topaz tractor trumpet tulip tunnel turnip turtle vanilla velvet '.
        'violet violin walnut walrus willow window winter wombat zebra anvil bobbin cobweb dove lark pylon mitten';

    /** @return list<string> */
    public static function words(): array
    {
        return explode(' ', self::WORDS);
    }

    /** Four words at random. */
    public static function secret(): string
    {
        $words = self::words();

        return implode('-', array_map(fn (): string => $words[random_int(0, count($words) - 1)], range(1, 4)));
    }

    /**
     * Of what somebody typed: case and what stands between do not matter.
     *
     * @return array{int, string}|null the number and the words; null if it is no code
     */
    public static function parse(string $typed): ?array
    {
        $parts = preg_split('/[^a-z0-9]+/', strtolower(trim($typed))) ?: [];
        $isCode = count($parts) === 5 && preg_match('/^[1-9][0-9]{0,8}$/D', $parts[0]) === 1;

        return $isCode ? [(int) $parts[0], implode('-', array_slice($parts, 1))] : null;
    }

    /** Two words that stand for a secret, to be compared on two screens. */
    public static function phrase(string $secret): string
    {
        $words = self::words();
        $digest = hash('sha256', "phrase $secret", true);

        return $words[ord($digest[0]) % count($words)].' '.$words[ord($digest[1]) % count($words)];
    }
}
