/** What any validator that follows the Standard Schema specification, version 1, has; https://standardschema.dev. */
export interface StandardSchema<Input = unknown, Output = Input> {
  readonly '~standard': {
    readonly version: 1;
    readonly vendor: string;
    readonly validate: (value: unknown) => Validated<Output> | Promise<Validated<Output>>;
    readonly types?: { readonly input: Input; readonly output: Output } | undefined;
  };
}

/** What a validator makes of a value. */
export type Validated<Output> =
  | { readonly value: Output; readonly issues?: undefined }
  | { readonly issues: readonly { readonly message: string }[] };

/** The type of the values that a validator gives. */
export type OutputOf<Schema extends StandardSchema> = NonNullable<Schema['~standard']['types']>['output'];
