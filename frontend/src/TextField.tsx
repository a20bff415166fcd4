import { Input } from "@chakra-ui/react";

interface Props {
  label: string;
  placeholder: string;
  /** How many letters it takes. */
  most: number;
  value: string;
  onChange: (value: string) => void;
}

/** A few words that are typed, beside the button that takes them. */
export function TextField({ label, placeholder, most, value, onChange }: Props) {
  return (
    <Input
      aria-label={label}
      placeholder={placeholder}
      _placeholder={{ color: "second" }}
      flex="1"
      h="40px"
      px="8px"
      bg="touch"
      borderColor="edge"
      fontSize="13px"
      maxLength={most}
      value={value}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}
